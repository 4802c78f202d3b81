import { FilePlus2, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { client, got, Refusal, UNREACHABLE, type Episode, type PageWords, type Recording } from "../../api/client";
import { useWeights } from "../../api/queries";
import { bytes, clock } from "../../api/time";
import { useEpisodeChange, usePageChange, useWork } from "../../desk/change";
import type { Edit } from "../../page/edit";
import type { BenchProps } from "../../page/stage";
import { Button, Heading, Progress, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { Pick } from "../../ui/fields";
import { TranscriptState } from "../read/ReadBench";
import { JoinForm, SessionCard } from "./SessionCard";
import { RecordPanel } from "./RecordPanel";
import { OnImport } from "../tidy/OnImport";
import { RemoteHost } from "./RemoteHost";
import { AsAWhole, Thumbnail } from "./AsAWhole";
import { FromAddress } from "./FromAddress";
import { FromSharedFolder } from "./FromSharedFolder";
import { FindAgain } from "./FindAgain";
import { RecordingName } from "./RecordingName";
import { add, again, dismiss, reuse, useUploads, type Upload } from "./upload";

function facts(recording: Recording): string {
  const channels = recording.channels === 1 ? "mono" : recording.channels === 2 ? "stereo" : `${recording.channels} channels`;
  const picture = recording.picture;
  return [
    recording.container === "mov" ? "mp4/mov" : recording.container,
    picture && recording.kind === "still" && `${picture.width}×${picture.height}`,
    picture && recording.kind !== "still" && `${picture.width}×${picture.height} at ${Number(picture.rate.toFixed(2))}`,
    recording.sound_codec && `${recording.sound_codec}, ${recording.sample_rate / 1000} kHz, ${channels}`,
    bytes(recording.size),
  ]
    .filter(Boolean)
    .join(" · ");
}

interface CardProps extends PageProps {
  episode: Episode;
  recording: Recording;
}

function RecordingCard({ episode, recording, edit, page }: CardProps) {
  const work = useWork(episode.id);
  const path = { params: { path: { recording_id: recording.id } } };
  const accept = useEpisodeChange(episode.id, () => got(client.POST("/api/recordings/{recording_id}/accept", path)));
  const [using, setUsing] = useState("");
  const remove = usePageChange(
    episode.id,
    (from_page: boolean) => got(client.DELETE("/api/recordings/{recording_id}", { params: { ...path.params, query: { from_page } } })),
    (error) => {
      const asks = error instanceof Refusal && error.problem.code === "in-use";
      if (asks) setUsing(error.message);
      return asks;
    },
  );
  const place = useEpisodeChange(episode.id, () => got(client.POST("/api/recordings/{recording_id}/place", path)));
  const take = (fromPage: boolean) =>
    remove.run(fromPage, () => setUsing(""));
  const preparing = episode.jobs.find((job) => job.kind === "prepare" && job.subject === recording.id);
  const picture = episode.jobs.find((job) => job.kind === "picture" && job.subject === recording.id && job.state === "running");
  return (
    <li className="space-y-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
      <RecordingName episode={episode} recording={recording} onRemove={recording.session ? undefined : () => take(false)} />
      <p className="text-xs leading-snug text-soft">{recording.borrowed ? "pasted from another episode" : facts(recording)}</p>
      {(recording.kind === "still" || recording.kind === "video") && recording.working_copy && <Thumbnail recording={recording} />}
      {recording.state === "ready" && !recording.borrowed && <AsAWhole episode={episode} recording={recording} edit={edit} page={page} />}
      {recording.state === "ready" && recording.kind === "speech" && !recording.borrowed && <Language episode={episode} recording={recording} />}
      {using && (
        <div role="alertdialog" aria-label="Remove it?" className="space-y-1.5">
          <Trouble>{using}</Trouble>
          <div className="flex gap-1.5">
            <Button onClick={() => take(true)}>Remove anyway</Button>
            <Button onClick={() => setUsing("")}>Keep</Button>
          </div>
        </div>
      )}
      {recording.gone && <FindAgain episode={episode} recording={recording} />}
      {recording.state === "preparing" && preparing?.state !== "cancelled" && (
        <Working job={preparing} total={preparing?.total ?? 0} verb="Reading its sound" onStop={work.stop} />
      )}
      {recording.state === "preparing" && preparing?.state === "cancelled" && (
        <div className="flex items-center justify-between gap-2">
          <span className="text-soft">Stopped.</span>
          <span className="flex gap-1">
            <Button onClick={() => work.again(preparing.id)}>Resume</Button>
            <Button onClick={() => take(false)}>Remove</Button>
          </span>
        </div>
      )}
      {recording.state === "cut off" && (
        <>
          <Trouble>{recording.trouble}</Trouble>
          <div className="flex gap-1.5">
            <Button look="strong" onClick={() => accept.run()}>
              Use the {clock(recording.length)} that can be read
            </Button>
            <Button onClick={() => take(false)}>Remove</Button>
          </div>
        </>
      )}
      {recording.state === "failed" && (
        <>
          <Trouble>{recording.trouble}</Trouble>
          <Button onClick={() => take(false)}>
            <Trash2 size={14} /> Remove
          </Button>
        </>
      )}
      {recording.state === "ready" && recording.kind === "speech" && (recording.placed || recording.session) && <TranscriptState episode={episode} recording={recording} />}
      {recording.state === "ready" && !recording.placed && !recording.session && recording.kind !== "still" && recording.sound_codec && (
        <div className="flex items-center justify-between gap-2">
          <span className="text-soft">Not on the page.</span>
          <Button onClick={() => place.run()}>Add to the page</Button>
        </div>
      )}
      {picture && (
        <Working job={picture} total={recording.length} verb={recording.key_pictures ? "Light copy of the picture; a few pictures until then" : "Light copy of the picture"} onStop={work.stop} />
      )}
    </li>
  );
}

/** Codes of the languages that the weights know, the ones most asked for first. */
const LANGUAGES = (
  "en es fr de it pt nl ru " +
  "af ar az be bg bs ca cs cy da el et fa fi gl gu he hi hr hu hy id is ja ka kk kn ko lt lv mi mk ml mr ms my ne no pa pl ro si sk sl sq sr sv sw ta te th tl tr uk ur vi yi zh"
).split(" ");
const names = new Intl.DisplayNames(["en"], { type: "language" });
const nameOf = (code: string) => (code === "auto" ? "found by itself" : (names.of(code) ?? code));

const CARE: [Recording["care"], string][] = [
  ["quick", "quick"],
  ["careful", "careful: by larger weights"],
];

/** What language is spoken: found from the sound, unless somebody says which it is. */
function Language({ episode, recording }: { episode: Episode; recording: Recording }) {
  const change = useEpisodeChange(episode.id, (what: Partial<Pick<Recording, "language" | "care" | "parted">>) =>
    got(client.PATCH("/api/recordings/{recording_id}", { params: { path: { recording_id: recording.id } }, body: { name: null, kind: null, language: null, care: null, parted: null, ...what } })),
  );
  const careful = useWeights().data?.weights.some((each) => !each.ships && each.state === "ready");
  const anew = useEpisodeChange(episode.id, () =>
    got(client.POST("/api/recordings/{recording_id}/transcript", { params: { path: { recording_id: recording.id }, query: { anew: true } } })),
  );
  const [chosen, setChosen] = useState(false);
  const busy = recording.transcript === "waiting" || recording.transcript === "running";
  return (
    <div className="space-y-1.5 text-xs text-soft">
      <label className="flex items-center gap-1.5">
        Language
        <Pick
          label="Language"
          value={recording.language}
          disabled={busy}
          options={[...new Set([recording.language, "auto", ...LANGUAGES])].map((code) => [code, nameOf(code)] as const)}
          onChange={(language) => change.run({ language }, () => setChosen(true))}
          className="min-w-0"
        />
      </label>
      {(careful || recording.care === "careful") && (
        <label className="flex items-center gap-1.5">
          Heard
          <Pick label="Heard" value={recording.care} disabled={busy} options={CARE} onChange={(care) => change.run({ care }, () => setChosen(true))} />
        </label>
      )}
      {recording.languages.length > 1 && (
        <div className="flex items-center justify-between gap-2">
          <span>Spoken here: {recording.languages.map(({ at, language }) => (at ? `${nameOf(language)} from ${clock(at)}` : nameOf(language))).join(", ")}.</span>
          <Button className="shrink-0 !px-2 !py-0.5" disabled={busy} hint={recording.parted ? "All of it in the language above" : "Each stretch is heard in its own language"} onClick={() => change.run({ parted: !recording.parted }, () => setChosen(true))}>
            {recording.parted ? "Hear as one" : "Part it there"}
          </Button>
        </div>
      )}
      {chosen && recording.transcript === "done" && (
        <div className="flex items-center justify-between gap-2">
          <span>The words were heard another way. What you typed stays.</span>
          <Button look="strong" className="shrink-0 !px-2 !py-0.5" onClick={() => anew.run(undefined, () => setChosen(false))}>
            Transcribe again
          </Button>
        </div>
      )}
    </div>
  );
}

function UploadCard({ upload }: { upload: Upload }) {
  return (
    <li className="space-y-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
      <b className="block truncate font-semibold">{upload.file.name}</b>
      {upload.state === "refused" ? (
        <>
          <Trouble>{upload.trouble}</Trouble>
          <div className="flex gap-1.5">
            {upload.twin && (
              <Button look="strong" onClick={() => void reuse(upload)}>
                Use it again
              </Button>
            )}
            {upload.trouble === UNREACHABLE && (
              <Button look="strong" hint="Goes on from where it broke off" onClick={() => again(upload.id)}>
                Try again
              </Button>
            )}
            <Button onClick={() => dismiss(upload.id)}>Dismiss</Button>
          </div>
        </>
      ) : (
        <>
          <div className="flex justify-between">
            <span className="text-soft">
              {upload.state === "waiting" ? "Waiting" : `${bytes(upload.sent)} of ${bytes(upload.file.size)}`}
            </span>
            <Button look="quiet" onClick={() => dismiss(upload.id)}>
              Cancel
            </Button>
          </div>
          <Progress label={`Sending ${upload.file.name}`} done={upload.sent} total={upload.file.size} />
        </>
      )}
    </li>
  );
}

interface PageProps {
  edit: Edit;
  page: PageWords | undefined;
}

export default function GatherBench({ episode, edit, page }: BenchProps) {
  const uploads = useUploads((state) => state.list).filter((each) => each.group.episode === episode.id);
  const input = useRef<HTMLInputElement>(null);
  // Lines said again belong to their words, and are found there.
  const gathered = episode.recordings.filter((recording) => recording.kind !== "pickup");
  return (
    <section aria-label="Gather">
      <Heading aside={`${gathered.length}`}>Recordings</Heading>
      <input
        ref={input}
        type="file"
        multiple
        hidden
        aria-label="Files to add"
        onChange={(event) => {
          add(episode.id, [...(event.target.files ?? [])]);
          event.target.value = "";
        }}
      />
      <button
        type="button"
        onClick={() => input.current?.click()}
        className="mb-2 flex w-full items-center justify-center gap-2 rounded-md border border-dashed border-soft px-3 py-3 text-soft hover:border-blue hover:text-blue"
      >
        <FilePlus2 size={16} /> Drop files here, or click to choose
      </button>
      <ul className="space-y-2">
        {episode.sessions.map((session) => (
          <SessionCard key={session.id} episode={episode} session={session} />
        ))}
        {gathered.map((recording) => (
          <RecordingCard key={recording.id} episode={episode} recording={recording} edit={edit} page={page} />
        ))}
        {uploads.map((upload) => (
          <UploadCard key={upload.id} upload={upload} />
        ))}
      </ul>
      <JoinForm episode={episode} />
      <RecordPanel episode={episode} />
      <OnImport showId={episode.show_id} />
      <FromSharedFolder episode={episode} />
      <FromAddress episode={episode} />
      <RemoteHost episode={episode} />
    </section>
  );
}
