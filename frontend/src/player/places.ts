/** Looking up in a plan: from laid time (struck words included) to places in the programme and back, and what is seen there. */
import type { Layer, Plan, Span } from "../api/client";

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
  /** Place in its recording, in ticks. */
  place: number;
  index: number;
  /** What is seen after it. */
  next: Layer | undefined;
}

/** What is seen at a place in the programme. */
export function seenAt(plan: Plan, at: number): Seen | null {
  const index = Math.max(0, lastBefore(plan.layers, (layer) => layer.begin, at));
  const layer = plan.layers[index];
  return layer ? { layer, place: placeIn(layer, at), index, next: plan.layers[index + 1] } : null;
}

/** The place in a layer's recording that is seen at a place in the programme; before a camera began, its first picture is. */
export const placeIn = ({ begin, place, speed }: Layer, at: number) => Math.max(0, place + Math.round((at - begin) * speed));
