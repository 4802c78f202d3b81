/** Fine: the page laid out by time, and where its edges are. */
import type { Head, PageWords, Plan, Token } from "../api/client";
import { RATE } from "../api/time";
import type { Source } from "./sources";
import { indexAt, type Ranges, type Tokens } from "./tokens";

/** Pixels above the sound of a line, for its ruler and words, and of each voice's sound. */
export const TOP = 42;
export const STAVE = 58;

/** Pixels from which an edge jumps to a word or a quiet place. */
export const SNAP_PIXELS = 8;

/** A stretch of a line that is one stretch of a source, too. */
export interface Segment {
  at: number;
  end: number;
  source: Source | undefined;
  /** Place in the source at which it begins; -1 for a rest that was put in. */
  start: number;
}

/** The stretches of sources between two laid times. */
export function segments(page: PageWords, tokens: Tokens, sources: ReadonlyMap<string, Source>, begin: number, end: number): Segment[] {
  const found: Segment[] = [];
  for (let i = indexAt(tokens.list, begin); i < tokens.list.length; i++) {
    const token = tokens.list[i];
    if (!token || token.at >= end) break;
    const source = sources.get(token.pickup || (page.passages[tokens.passage[i] ?? 0]?.recording ?? ""));
    const last = found.at(-1);
    const until = token.at + token.len;
    if (last && last.source === source && last.end === token.at && (token.t < 0 ? last.start < 0 : last.start >= 0 && last.start + last.end - last.at === token.t)) {
      last.end = until;
    } else found.push({ at: token.at, end: until, source, start: token.t });
  }
  return found.map((each) => {
    const from = Math.max(begin, each.at);
    return { ...each, at: from, end: Math.min(end, each.end), start: each.start < 0 ? -1 : each.start + from - each.at };
  });
}

/** An edge between what is kept and what is taken out; it belongs to a splice where something is kept on both sides. */
export interface Edge {
  at: number;
  side: "before" | "after";
  /** Where the later side of its splice begins; null at the beginning and the end. */
  splice: number | null;
}

/** The edges between two laid times. */
export function edges(head: Head, begin: number, end: number): Edge[] {
  const found: Edge[] = [];
  const joined = new Set(head.splices);
  for (const [from = 0, to = 0] of within(head.struck, begin, end)) {
    const splice = joined.has(to) ? to : null;
    if (from > 0 && from >= begin && from <= end) found.push({ at: from, side: "before", splice });
    if (to < head.recorded_time && to >= begin && to <= end) found.push({ at: to, side: "after", splice });
  }
  for (const at of head.splices) {
    // Nothing is taken out here: two places meet that were laid together.
    if (at < begin || at > end || found.some((edge) => edge.at === at)) continue;
    found.push({ at, side: "before", splice: at }, { at, side: "after", splice: at });
  }
  return found;
}

export const within = (ranges: Ranges, begin: number, end: number) => ranges.filter(([from = 0, to = 0]) => from < end && to > begin);

/** The nearest edge of a word or quiet place to a laid time, if one is near enough. */
export function snapped(at: number, reach: number, list: readonly Token[], quiet: readonly number[]): number {
  const index = indexAt(list, at);
  const near = [index - 1, index, index + 1].flatMap((i) => (list[i] ? [list[i].at, list[i].at + list[i].len] : []));
  let best = at;
  let far = reach;
  for (const place of [...near, ...quiet]) {
    if (Math.abs(place - at) < far) [best, far] = [place, Math.abs(place - at)];
  }
  return best;
}

/** Laid times near a place at which an envelope (a byte for each 10 ms) is at its quietest. */
export function quietPlaces(peaks: Uint8Array | undefined, segment: Segment | undefined, at: number, reach: number): number[] {
  if (!peaks || !segment || segment.start < 0) return [];
  const toLaid = segment.at - segment.start;
  const first = Math.max(1, Math.floor((at - reach - toLaid) / (RATE / 100)));
  const last = Math.min(peaks.length - 2, Math.ceil((at + reach - toLaid) / (RATE / 100)));
  const found: number[] = [];
  for (let i = first; i <= last; i++) {
    const here = peaks[i] ?? 0;
    if (here < 24 && here <= (peaks[i - 1] ?? 0) && here < (peaks[i + 1] ?? 0)) found.push((i + 0.5) * (RATE / 100) + toLaid);
  }
  return found;
}

/** A stretch of laid time during which a clock runs on; `time` is what it says where that begins. */
export interface Running {
  begin: number;
  end: number;
  time: number;
}

/** The clock of the programme, as far as it runs between two laid times: it stands while something is taken out. */
export const byProgramme = (plan: Pick<Plan, "spans" | "length">, begin: number, end: number): Running[] =>
  plan.spans.flatMap((span, index) => {
    const from = Math.max(begin, span.laid + Math.max(0, span.handover - span.at));
    const to = Math.min(end, span.laid + Math.min(span.until, plan.spans[index + 1]?.handover ?? plan.length) - span.at);
    return from < to ? [{ begin: from, end: to, time: span.at + from - span.laid }] : [];
  });

/** The clocks of the recordings that a line is made of. */
export const byRecordings = (parts: readonly Segment[]): Running[] => parts.flatMap(({ at, end, start }) => (start < 0 ? [] : [{ begin: at, end, time: start }]));

/** Marks of a ruler where its clocks run, about so many between two laid times. */
export function ruler(clocks: readonly Running[], begin: number, end: number, marks = 12): { at: number; label: string | null }[] {
  const steps = [0.05, 0.1, 0.25, 0.5, 1, 2, 5];
  const step = steps.find((each) => (end - begin) / RATE / each <= marks) ?? 10;
  const out: { at: number; label: string | null }[] = [];
  for (const clock of clocks) {
    const until = clock.time + clock.end - clock.begin;
    for (let n = Math.ceil(clock.time / RATE / step - 1e-9); n * step * RATE < until; n++) {
      const seconds = n * step;
      const minutes = Math.floor(seconds / 60 + 1e-9);
      const rest = (seconds - minutes * 60).toFixed(step < 1 ? 2 : 0).padStart(step < 1 ? 5 : 2, "0");
      out.push({ at: Math.round(clock.begin + n * step * RATE - clock.time), label: n % 2 === 0 || step >= 1 ? `${minutes}:${rest}` : null });
    }
  }
  return out;
}
