/** Looking up in a plan: from laid time (struck words included) to places in the programme and back, and what is seen there. */
import type { Layer, Plan, Span, View } from "../api/client";

/** Index of the last of those that begin at or before a place; -1 where none does. */
function lastBefore<T>(list: readonly T[], begin: (each: T) => number, at: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const each = list[middle];
    if (each !== undefined && begin(each) <= at) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Where in the programme a laid time sounds; for what does not sound, where the next that does begins. */
export function toProgramme(plan: Plan, laid: number): number {
  const index = lastBefore(plan.spans, (span) => span.laid, laid);
  const span = plan.spans[index];
  if (span && laid < span.laid + span.until - span.at) return span.at + laid - span.laid;
  return plan.spans[index + 1]?.at ?? plan.length;
}

/** The laid time of a place in the programme. */
export function toLaid(plan: Plan, at: number): number {
  const span = spanAt(plan, at);
  return span ? span.laid + Math.min(Math.max(0, at - span.at), span.until - span.at) : 0;
}

/** The span that leads at a place. */
export function spanAt(plan: Plan, at: number): Span | undefined {
  return plan.spans[Math.max(0, lastBefore(plan.spans, (span) => span.handover, at))];
}

export interface Seen {
  layer: Layer;
  index: number;
  /** What is seen after it. */
  next: Layer | undefined;
}

/** What is seen at a place in the programme. */
export function seenAt(plan: Plan, at: number): Seen | null {
  const index = Math.max(0, lastBefore(plan.layers, (layer) => layer.begin, at));
  const layer = plan.layers[index];
  return layer ? { layer, index, next: plan.layers[index + 1] } : null;
}

/** The place in a view's recording that is seen so many ticks after its layer begins; before a camera began, its first picture is. */
export const placeIn = ({ place, speed }: View, after: number) => Math.max(0, place + Math.round(after * speed));

export interface Box {
  left: number;
  top: number;
  width: number;
  height: number;
}

export const boxOf = ([left = 0, top = 0, width = 1, height = 1]: readonly number[]): Box => ({ left, top, width, height });

/** What a cover hides so many ticks after its layer begins; nothing outside its way. */
export function coverAt({ way }: View["covers"][number], after: number): Box | null {
  const [first, last] = [way[0], way.at(-1)];
  if (!first || !last || after < first.at || after > last.at) return null;
  const index = lastBefore(way, ({ at }) => at, after);
  const [from, to] = [way[index] ?? first, way[index + 1]];
  const a = boxOf(from.box);
  if (!to) return a;
  const b = boxOf(to.box);
  const part = (after - from.at) / (to.at - from.at);
  // What lies between two places is covered wholly, wherever within it the thing is.
  return { left: a.left + (b.left - a.left) * part, top: a.top + (b.top - a.top) * part, width: Math.max(a.width, b.width), height: Math.max(a.height, b.height) };
}

/** The part of a camera's picture that is seen so many ticks after its layer begins. */
export function cropAt({ crops }: View, after: number): Box {
  const index = lastBefore(crops, ({ at }) => at, after);
  const [before, following] = [crops[Math.max(0, index)], crops[index + 1]];
  const box = boxOf(before?.box ?? []);
  if (!before || !following || index < 0) return box;
  const share = (after - before.at) / (following.at - before.at);
  const to = boxOf(following.box);
  const between = (name: keyof Box) => box[name] + (to[name] - box[name]) * share;
  return { left: between("left"), top: between("top"), width: between("width"), height: between("height") };
}
