/** Music and ambience under the words: where it stands on the page, how its level moves there, and how it is changed. */
import type { Head, Plan } from "../api/client";
import { RATE } from "../api/time";
import { toLaid, toProgramme } from "../player/places";
import type { Edit, Operation } from "./edit";
import type { PageMark } from "./marks";

export type Bed = Head["beds"][number];
export type LaidBed = Plan["beds"][number];

/** The operation that changes something of a bed. */
export function changed(bed: Bed, next: Partial<Omit<Bed, "id" | "name">>): Operation {
  const { id, recording, ends, start, decibels, duck, attack, release, fade_in, fade_out, shape, loop } = bed;
  const begins = bed.begins ?? { to: "beginning" as const, at: null, offset: 0 };
  return { kind: "bed", id, recording, begins, ends, start, decibels, duck, attack, release, fade_in, fade_out, shape, loop, ...next } as Operation;
}

/** Decibels from which down nothing of an envelope is drawn. */
const DRAWN = 40;

/** How high an envelope is drawn at a level, 0 to 1. */
const share = (decibels: number) => Math.max(0.08, Math.min(1, 1 + decibels / DRAWN));

/** Places in the programme and heights between which a bed's level moves in straight lines. */
export function envelope(bed: Bed, laid: LaidBed): [number, number][] {
  const inside = laid.ride.filter(({ at }) => at > laid.at && at < laid.until);
  const first = (laid.ride.findLast(({ at }) => at <= laid.at) ?? laid.ride[0])?.decibels ?? 0;
  const last = (laid.ride.find(({ at }) => at >= laid.until) ?? laid.ride.at(-1))?.decibels ?? 0;
  const level = (ride: number) => share(bed.decibels + ride);
  return [
    [laid.at, 0],
    [laid.at + Math.min(bed.fade_in, (laid.until - laid.at) / 2), level(first)],
    ...inside.map(({ at, decibels }): [number, number] => [at, level(decibels)]),
    [laid.until - Math.min(bed.fade_out, (laid.until - laid.at) / 2), level(last)],
    [laid.until, 0],
  ];
}

/** The first row in which a stretch touches none of those there already. */
function rowFor(taken: [number, number][][], begin: number, end: number): number {
  const free = taken.findIndex((row) => row.every(([from, to]) => end <= from || begin >= to));
  const row = free < 0 ? taken.length : free;
  (taken[row] ??= []).push([begin, end]);
  return row;
}

const PEAK = RATE / 100;

/** How loud a bed is by itself at a place of the programme, 0 to 1; one that is too short for its place begins again. */
export function waveOf(bed: Bed, laid: LaidBed, peaks: Uint8Array | undefined): ((at: number) => number) | undefined {
  if (!peaks?.length) return undefined;
  const first = Math.floor((bed.start ?? 0) / PEAK);
  const own = Math.max(1, peaks.length - first);
  return (at) => (peaks[first + (Math.max(0, Math.floor((at - laid.at) / PEAK)) % own)] ?? 0) / 255;
}

/** What ties a bed's end to the programme's time instead of a word, or back: it stays where it is, or follows its words. */
export function tied(bed: Bed, laid: LaidBed, plan: Plan, to: "words" | "time"): Operation {
  const word = (at: number) => ({ to: "word" as const, at: toLaid(plan, Math.min(plan.length - 1, at)), offset: 0 });
  const time = (at: number) => ({ to: "beginning" as const, at: null, offset: at - (plan.spans[0]?.at ?? 0) });
  const tie = to === "words" ? word : time;
  return changed(bed, { begins: tie(laid.at), ...(bed.ends && { ends: tie(laid.until) }) });
}

/** Whether a bed goes with its words wherever they are moved. */
export const follows = ({ begins }: Bed) => begins?.to === "word";

/** Beds as marks below the words they lie under; those that overlap stand below one another. */
export function bedMarks(head: Head, plan: Plan | undefined, edit: Edit, peaks: ReadonlyMap<string, Uint8Array>): PageMark[] {
  const taken: [number, number][][] = [];
  return (plan?.beds ?? []).flatMap((laid) => {
    const bed = head.beds.find((each) => each.id === laid.id);
    const spans = plan?.spans;
    const [first, last] = [spans?.[0], spans?.at(-1)];
    if (!bed || !plan || !first || !last || laid.until <= first.at || laid.at >= last.until) return [];
    const begin = toLaid(plan, Math.max(laid.at, first.at));
    const end = toLaid(plan, Math.min(laid.until, last.until) - 1) + 1;
    const heard = waveOf(bed, laid, peaks.get(bed.recording));
    return {
      id: `bed ${bed.id}`,
      lane: "below" as const,
      begin,
      end,
      row: rowFor(taken, begin, end),
      look: "bed",
      text: bed.name,
      label: `Music: ${bed.name}`,
      ...(heard && { wave: (at: number) => heard(toProgramme(plan, at)) }),
      envelope: envelope(bed, laid).map(([at, height]): [number, number] => [toLaid(plan, at), height]),
      resize: (from: number, to: number) => {
        const next: Partial<Bed> = {};
        if (from !== begin) next.begins = { to: "word", at: from, offset: 0 };
        if (to !== end) next.ends = { to: "word", at: to, offset: 0 };
        return new Promise<void>((resolve) => void edit.operate(changed(bed, next), () => resolve()));
      },
    };
  });
}
