/** Music, ambience and short sounds: what lies under the words, and the library it comes from. */
import { Play, Plus, Square, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { client, got, type Head, type PageWords, type Recording } from "../../api/client";
import type { SchemaSoundOut as LibrarySound } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { keys } from "../../api/queries";
import { change } from "../../desk/change";
import { failed } from "../../desk/desk";
import { usePlace } from "../../desk/place";
import { changed, follows, tied, type Bed } from "../../page/beds";
import type { Operation } from "../../page/edit";
import type { BenchProps } from "../../page/stage";
import { indexAt, selected } from "../../page/tokens";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { useSounds } from "./queries";

type Props = BenchProps & { head: Head; page: PageWords };

/** Seconds with which an opening begins before the first word. */
const OPENING = 6;

const PLACES = [
  ["opening", "before the first word"],
  ["ending", "after the last word"],
  ["here", "under the selection"],
  ["throughout", "under everything"],
] as const;
type PlaceName = (typeof PLACES)[number][0];

export function Music(props: Props) {
  const { episode, head, edit, tokens } = props;
  const picked = selected(tokens.list, usePlace((state) => state.selection));
  const cursor = usePlace((state) => state.cursor);
  const [place, setPlace] = useState<PlaceName>("opening");
  const [browsing, setBrowsing] = useState(false);
  const music = episode.recordings.filter((each) => each.kind === "music" && each.state === "ready");
  const token = tokens.list[indexAt(tokens.list, cursor)];
  const from = picked?.[0] ?? token?.at ?? 0;

  const lay = (recording: Pick<Recording, "id" | "length">, more: Partial<Bed> = {}, loops = false) => edit.operate(laid(place, recording, picked, from, loops, more));
  return (
    <>
      <Heading aside={head.beds.length ? String(head.beds.length) : undefined}>Music</Heading>
      {head.beds.length > 0 && (
        <ul className="mb-1.5 overflow-hidden rounded-md border border-line bg-paper">
          {head.beds.map((bed) => (
            <BedRow key={bed.id} {...{ bed, edit, plan: props.plan }} />
          ))}
        </ul>
      )}
      <div className="flex items-center gap-1.5">
        <Pick label="Where music is laid" value={place} options={PLACES} onChange={setPlace} className="min-w-0 flex-1" />
        <Button aria-expanded={browsing} onClick={() => setBrowsing(!browsing)}>
          <Plus size={14} /> Library
        </Button>
      </div>
      {music.length > 0 && (
        <ul aria-label="Music of this episode" className="mt-1.5 space-y-1">
          {music.map((each) => (
            <li key={each.id} className="flex items-center gap-1.5">
              <span className="min-w-0 flex-1 truncate" title={each.name}>
                {each.name}
              </span>
              <span className="font-mono text-xs text-soft">{clock(each.length)}</span>
              <Button className="!px-1.5 !py-0.5 text-xs" aria-label={`Lay ${each.name}`} why={place === "here" && !picked && "Select the words it is to lie under"} onClick={() => lay(each)}>
                Lay
              </Button>
            </li>
          ))}
        </ul>
      )}
      {browsing && <Library {...props} place={place} from={from} picked={picked} lay={lay} />}
    </>
  );
}

/** The operation that lays a recording somewhere. */
function laid(place: PlaceName, recording: Pick<Recording, "id" | "length">, picked: readonly [number, number] | null, from: number, loops: boolean, more: Partial<Bed>): Operation {
  const bed = { kind: "bed" as const, recording: recording.id, loop: loops, ...more };
  switch (place) {
    case "opening":
      return { ...bed, begins: { to: "beginning", offset: -OPENING * RATE }, fade_in: 0, fade_out: 3 * RATE } as Operation;
    case "ending":
      return { ...bed, begins: { to: "end", offset: -2 * RATE }, fade_in: RATE, fade_out: 2 * RATE } as Operation;
    case "throughout":
      return { ...bed, begins: { to: "beginning", offset: 0 }, ends: { to: "end", offset: 0 }, decibels: -22, loop: true } as Operation;
    case "here":
      return { ...bed, begins: { to: "word", at: from }, ...(picked && { ends: { to: "word", at: picked[1] } }) } as Operation;
  }
}

const SETTINGS = [
  ["decibels", "level", "dB", -60, 24, 1],
  ["duck", "lower under words", "dB", 0, 60, 1],
] as const;

const TIMES = [
  ["attack", "goes down in", 0, 10],
  ["release", "comes up in", 0, 10],
  ["fade_in", "fades in over", 0, 60],
  ["fade_out", "fades out over", 0, 60],
] as const;

const told = ({ begins, ends }: Bed) => {
  if (!begins || ends === undefined) return "its word is not here any more";
  const start = begins.to === "beginning" ? `from ${begins.offset && begins.offset < 0 ? `${-begins.offset / RATE} s before the first word` : "the beginning"}` : begins.to === "end" ? "at the end" : "from its word";
  return ends ? `${start}, to ${ends.to === "end" ? "the end" : ends.to === "beginning" ? "the beginning" : "its last word"}` : start;
};

function BedRow({ bed, edit, plan }: { bed: Bed } & Pick<Props, "edit" | "plan">) {
  const laid = plan?.beds.find((each) => each.id === bed.id);
  const [open, setOpen] = useState(false);
  const set = (next: Partial<Bed>) => edit.operate(changed(bed, next));
  return (
    <li className="border-b border-line px-2 py-1 last:border-0">
      <div className="flex items-center gap-1.5">
        <button type="button" aria-expanded={open} className="min-w-0 flex-1 truncate text-left hover:text-blue" title={`${bed.name}: ${told(bed)}`} onClick={() => setOpen(!open)}>
          {bed.name} <span className="text-soft">{told(bed)}</span>
        </button>
        <NumberField label={`Level of ${bed.name} in decibels`} unit="dB" value={bed.decibels ?? -12} least={-60} most={24} digits={1} className="w-11" onChange={(decibels) => set({ decibels })} />
        <Button look="quiet" className="!px-1" aria-label={`Take ${bed.name} off`} onClick={() => edit.operate({ kind: "bed off", id: bed.id })}>
          <Trash2 size={13} />
        </Button>
      </div>
      {open && (
        <div className="space-y-1 py-1.5">
          {SETTINGS.slice(1).map(([name, label, unit, least, most, step]) => (
            <Line key={name} label={label}>
              <NumberField label={`${bed.name}: ${label}`} {...{ unit, least, most, step }} value={bed[name] ?? 0} className="w-14" onChange={(value) => set({ [name]: value })} />
            </Line>
          ))}
          {TIMES.map(([name, label, least, most]) => (
            <Line key={name} label={label}>
              <NumberField label={`${bed.name}: ${label}, seconds`} unit="s" {...{ least, most }} step={0.1} digits={1} value={(bed[name] ?? 0) / RATE} className="w-14" onChange={(seconds) => set({ [name]: Math.round(seconds * RATE) })} />
            </Line>
          ))}
          <Line label="shape of its fades">
            <Pick label={`${bed.name}: shape of its fades`} value={bed.shape ?? "equal power"} options={[["equal power", "equal power"], ["linear", "linear"]]} onChange={(shape) => set({ shape })} />
          </Line>
          {plan && laid && (
            <Line label="when words are moved or cut">
              <Pick
                label={`${bed.name}: when words are moved or cut`}
                value={follows(bed) ? "words" : "time"}
                options={[
                  ["words", "follows its words"],
                  ["time", "stays at its time"],
                ]}
                onChange={(to) => edit.operate(tied(bed, laid, plan, to))}
              />
            </Line>
          )}
          <label className="flex items-center justify-between gap-2 text-soft">
            begins again where it is too short <Tick checked={bed.loop ?? false} onChange={(loop) => set({ loop })} />
          </label>
        </div>
      )}
    </li>
  );
}

const KINDS = [
  ["", "all sounds"],
  ["theme", "themes"],
  ["bed", "music"],
  ["ambience", "ambience"],
  ["sting", "short sounds"],
] as const;

interface LibraryProps extends Props {
  place: PlaceName;
  from: number;
  picked: readonly [number, number] | null;
  lay: (recording: Pick<Recording, "id" | "length">, more?: Partial<Bed>, loops?: boolean) => void;
}

/** Sounds by kind and mood; each is heard under the words before it is taken. */
function Library({ episode, head, from, picked, lay, plan }: LibraryProps) {
  const sounds = useSounds().data?.sounds ?? [];
  const [kind, setKind] = useState<(typeof KINDS)[number][0]>("");
  const [mood, setMood] = useState("");
  const [longest, setLongest] = useState(0);
  const [heard, setHeard] = useState<string | null>(null);
  useEffect(() => {
    if (!heard) return;
    const audio = new Audio(`/api/editions/${head.id}/under?${new URLSearchParams({ sound: heard, at: String(from) })}`);
    audio.addEventListener("ended", () => setHeard(null));
    void audio.play().catch((error: Error) => error.name !== "AbortError" && failed(error));
    return () => audio.pause();
  }, [heard, head.id, from]);
  const moods = [...new Set(sounds.flatMap((each) => each.moods))].sort();
  const shown = sounds.filter((each) => (!kind || each.kind === kind) && (!mood || each.moods.includes(mood)) && (!longest || each.length <= longest * RATE));
  const listen = (sound: LibrarySound) => {
    player.pause();
    setHeard(heard === sound.id ? null : sound.id);
  };
  const take = async (sound: LibrarySound, more: Partial<Bed> = {}) => {
    setHeard(null);
    const taken: { id?: string } = {};
    const send = async () => {
      const recording = await got(client.POST("/api/episodes/{episode_id}/sounds", { params: { path: { episode_id: episode.id } }, body: { sound: sound.id } }));
      taken.id = recording.id;
      await ready(episode.id, recording.id);
    };
    if ((await change([keys.episode(episode.id)], send)) && taken.id) lay({ id: taken.id, length: sound.length }, more, sound.loops && sound.kind !== "theme");
  };
  const length = picked && plan ? picked[1] - picked[0] : 20 * RATE;
  const choose = () =>
    void got(client.GET("/api/sounds/choice", { params: { query: { length, moods: mood, kind } } }))
      .then(({ sound, start, loop }) => take(sound, { start, loop }))
      .catch(failed);
  return (
    <div role="group" aria-label="Library of sounds" className="mt-1.5 rounded-md border border-line bg-paper p-1.5">
      <div className="grid grid-cols-2 items-center gap-1.5">
        <Pick label="Kind of sound" value={kind} options={KINDS} onChange={setKind} className="min-w-0" />
        <Pick label="Mood" value={mood} options={[["", "any mood"], ...moods.map((each) => [each, each] as const)]} onChange={setMood} className="min-w-0" />
        <NumberField label="Longest, in seconds; 0 is any length" title="0 is any length" unit="s at most" value={longest} least={0} most={600} step={10} className="w-11" onChange={setLongest} />
        <Button hint="Picks one that fits the length and ends with it" onClick={choose}>
          Choose for me
        </Button>
      </div>
      <ul className="mt-1.5 max-h-56 space-y-0.5 overflow-y-auto">
        {shown.map((sound) => (
          <li key={sound.id} className="flex items-center gap-1">
            <Button look="quiet" className="!px-1" aria-label={`Hear ${sound.name} under the words`} aria-pressed={heard === sound.id} hint="Under the words here; nothing changes" onClick={() => listen(sound)}>
              {heard === sound.id ? <Square size={12} /> : <Play size={12} />}
            </Button>
            <span className="min-w-0 flex-1 truncate" title={sound.moods.join(", ")}>
              {sound.name} <span className="text-soft">{sound.moods.join(", ")}</span>
            </span>
            <span className="font-mono text-xs text-soft">{clock(sound.length)}</span>
            <Button className="!px-1.5 !py-0.5 text-xs" aria-label={`Take ${sound.name}`} onClick={() => void take(sound)}>
              Take
            </Button>
          </li>
        ))}
        {shown.length === 0 && <li className="text-soft">Nothing of this kind and mood.</li>}
      </ul>
    </div>
  );
}

/** Wait until a recording that was taken is ready: seconds, for its sound is only decoded. */
async function ready(episode_id: string, recording: string): Promise<void> {
  for (let tries = 0; tries < 120; tries++) {
    const { recordings } = await got(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id } } }));
    const state = recordings.find((each) => each.id === recording)?.state;
    if (state === "ready") return;
    if (state === "failed") break;
    await new Promise((resolve) => setTimeout(resolve, 300));
  }
  throw new Error("The sound could not be read. Look at it under Gather.");
}
