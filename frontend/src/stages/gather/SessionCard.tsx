import clsx from "clsx";
import { Headphones, Link2, Video } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, type Episode, type Session, type Track } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { usePageChange, useWork } from "../../desk/change";
import { inkOf } from "../../page/sources";
import { Button, Heading } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { NumberField } from "../../ui/NumberField";
import { TextField, Tick } from "../../ui/fields";
import { Slider } from "../../ui/Slider";

const HEARD_SECONDS = 8;

/** Recordings made at the same time: how they lie to one another, whose voices they are, and whether they are joined. */
export function SessionCard({ episode, session }: { episode: Episode; session: Session }) {
  const work = useWork(episode.id);
  const path = { params: { path: { session_id: session.id } } };
  const join = usePageChange(episode.id, () => got(client.POST("/api/sessions/{session_id}/join", path)));
  const apart = usePageChange(episode.id, () => got(client.DELETE("/api/sessions/{session_id}", path)));
  const job = episode.jobs.find((each) => each.kind === "sync" && each.subject === session.id && each.state !== "cancelled");
  const unknown = session.tracks.filter((track, index) => index > 0 && track.sure === 0);
  const syncing = session.state === "syncing";
  return (
    <li className="space-y-2 rounded-md border border-soft bg-paper px-2.5 py-2" aria-label={session.name}>
      <div className="flex justify-between gap-2">
        <b className="font-semibold">{session.name}</b>
        <span className="font-mono text-xs text-soft">{!syncing && clock(session.length)}</span>
      </div>
      {syncing ? (
        <>
          <p className="leading-snug text-soft">{session.tracks.length} recordings that came together. Their sound is compared, to find out whether they were made at the same time.</p>
          <Working job={job} total={job?.total ?? 0} verb="Comparing their sound" onStop={work.stop} />
        </>
      ) : (
        <>
          {session.state === "proposed" && (
            <p className="leading-snug">
              {unknown.length === 0
                ? "These were recorded at the same time. Joined, they play and are cut together."
                : `No shared sound tells where ${unknown.map((track) => `“${track.name}”`).join(" and ")} belongs. Shift it by hand while listening, or keep them apart.`}
            </p>
          )}
          <ul className="space-y-1.5">
            {session.tracks.map((track) => (
              <TrackLine key={track.recording} episode={episode} session={session} track={track} />
            ))}
          </ul>
          <Together session={session} />
        </>
      )}
      {session.state !== "joined" && (
        <div className="flex gap-1.5">
          {!syncing && (
            <Button look="strong" onClick={() => join.run()}>
              <Link2 size={14} /> Join them
            </Button>
          )}
          <Button onClick={() => apart.run()}>Keep separate</Button>
        </div>
      )}
    </li>
  );
}

function certainty(track: Track, first: boolean): string {
  if (first && track.sure >= 0) return "the others are laid to it";
  if (track.sure < 0) return "set by hand";
  if (track.sure === 0) return "no shared sound";
  const drift = track.drift ? `, clock off by ${Math.abs(track.drift * 1e6).toFixed(0)} ppm, corrected` : "";
  return `${Math.round(track.sure * 100)} % sure${drift}`;
}

interface Change {
  offset?: number;
  sounds?: boolean;
  voice?: string;
}

function TrackLine({ episode, session, track }: { episode: Episode; session: Session; track: Track }) {
  const params = { path: { session_id: session.id, recording_id: track.recording } };
  const change = usePageChange(episode.id, (what: Change) =>
    got(client.PATCH("/api/sessions/{session_id}/tracks/{recording_id}", { params, body: { offset: null, sounds: null, voice: null, ...what } })),
  );
  const send = (what: Change) => change.run(what);
  const voice = episode.voices.find((each) => each.id === track.voice);
  const camera = episode.recordings.find((each) => each.id === track.recording)?.picture;
  const name = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    send({ voice: String(new FormData(event.currentTarget).get("voice")) });
  };
  return (
    <li className="rounded border border-line px-2 py-1.5" aria-label={track.name}>
      <div className="flex items-center gap-1.5">
        <span className="size-2.5 shrink-0 rounded-full" style={{ background: track.sounds ? `var(${inkOf(voice)})` : "var(--line)" }} />
        <span className="min-w-0 flex-1 truncate" title={track.name}>
          {track.name}
        </span>
        {camera && <Video size={13} className="text-soft" aria-label="with picture" />}
        <label className="flex items-center gap-1 text-soft">
          <Tick checked={track.sounds} onChange={(checked) => send({ sounds: checked })} /> heard
        </label>
      </div>
      {track.sounds && (
        <form onSubmit={name} className="mt-1 flex gap-1.5">
          <TextField
            key={voice?.name}
            label={`Voice of ${track.name}`}
            name="voice"
            defaultValue={voice?.name}
            placeholder={voice?.shown ?? "Whose voice?"}
            maxLength={80}
            list={`voices-${episode.id}`}
            onBlur={(event) => event.target.value.trim() !== (voice?.name ?? "") && event.target.form?.requestSubmit()}
            className="flex-1"
          />
          <datalist id={`voices-${episode.id}`}>
            {episode.voices.filter((each) => each.name).map((each) => <option key={each.id} value={each.name} />)}
          </datalist>
        </form>
      )}
      <div className="mt-1 flex items-center gap-1.5 text-xs text-soft">
        <Offset track={track} change={(offset) => send({ offset })} />
        <span className={clsx("min-w-0 flex-1 leading-tight", track.sure === 0 && "text-ochre")}>{certainty(track, session.tracks[0] === track)}</span>
      </div>
    </li>
  );
}

/** Where a track begins, in seconds; arrow keys shift it by 10 ms, with Shift by a tenth of a second. */
function Offset({ track, change }: { track: Track; change: (offset: number) => void }) {
  return (
    <span className="flex items-center gap-1" title="Up and down shift it by 10 ms, with Shift by 100 ms">
      begins at
      <NumberField label={`Beginning of ${track.name} in seconds`} unit="s" value={track.offset / RATE} least={-FARTHEST} most={FARTHEST} step={0.01} digits={3} className="w-[74px]" onChange={(seconds) => change(Math.round(seconds * RATE))} />
    </span>
  );
}

const FARTHEST = 86_400;

/** Some seconds of all tracks together, to hear whether they are in sync. */
function Together({ session }: { session: Session }) {
  const [at, setAt] = useState(0.2);
  const place = Math.round(at * Math.max(0, session.length - HEARD_SECONDS * RATE));
  const [sound, setSound] = useState("");
  return (
    <div className="flex items-center gap-2">
      <Button
        hint={`${HEARD_SECONDS} seconds of all tracks that are heard`}
        onClick={() => setSound(`/api/sessions/${session.id}/sound?at=${place}&length=${HEARD_SECONDS * RATE}&r=${session.revision}.${Date.now()}`)}
      >
        <Headphones size={14} /> Hear together
      </Button>
      <Slider handles={[{ label: "Where to listen", value: at, text: clock(place) }]} min={0} max={1} step={0.001} onSet={([to = at]) => setAt(to)} className="min-w-0 flex-1" />
      <span className="w-10 text-right font-mono text-xs text-soft">{clock(place)}</span>
      {/* A moment of both recordings, to hear whether they lie together: there is no text of it yet. */}
      {/* eslint-disable-next-line jsx-a11y/media-has-caption */}
      {sound && <audio src={sound} autoPlay onEnded={() => setSound("")} onError={() => setSound("")} />}
    </div>
  );
}

/** Choose recordings that were made at the same time, whenever they were added. */
export function JoinForm({ episode }: { episode: Episode }) {
  const free = episode.recordings.filter((recording) => !recording.session && recording.state === "ready" && recording.sound_codec && recording.kind === "speech");
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const picked = chosen.filter((id) => free.some((recording) => recording.id === id));
  const make = usePageChange(episode.id, () =>
    got(client.POST("/api/episodes/{episode_id}/sessions", { params: { path: { episode_id: episode.id } }, body: { recordings: [...picked] } })),
  );
  if (free.length < 2) return null;
  const toggle = (id: string) => setChosen(picked.includes(id) ? picked.filter((each) => each !== id) : [...picked, id]);
  return (
    <section aria-label="Recorded at the same time">
      <Heading>Recorded at the same time?</Heading>
      <ul className="space-y-1">
        {free.map((recording) => (
          <li key={recording.id}>
            <label className="flex items-center gap-2">
              <Tick checked={picked.includes(recording.id)} onChange={() => toggle(recording.id)} />
              <span className="truncate">{recording.name}</span>
            </label>
          </li>
        ))}
      </ul>
      <Button className="mt-1.5" why={picked.length < 2 && "Tick at least two that were recorded at the same time"} onClick={() => make.run(undefined, () => setChosen([]))}>
        <Link2 size={14} /> Compare their sound
      </Button>
    </section>
  );
}
