/** From laid time (struck words included) to places in the programme and back, by the plan's spans. */
import type { Plan, Span } from "../api/client";

const clearFrom = (span: Span) => span.at + span.fade_in;
const clearLength = (span: Span) => span.end - span.start - span.fade_in - span.fade_out;

/** The last of those that a test holds for: it holds for all up to some place, and for none after it. */
function lastIndex<T>(list: readonly T[], test: (each: T) => boolean): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const each = list[middle];
    if (each !== undefined && test(each)) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Where in the programme a laid time sounds; for what does not sound, where the next that does begins. */
export function toProgramme(plan: Plan, laid: number): number {
  const index = lastIndex(plan.spans, (span) => span.laid <= laid);
  const span = plan.spans[index];
  if (span && laid < span.laid + clearLength(span)) return clearFrom(span) + laid - span.laid;
  const next = plan.spans[index + 1];
  return next ? clearFrom(next) : plan.length;
}

/** The laid time of a place in the programme. */
export function toLaid(plan: Plan, at: number): number {
  const span = spanAt(plan, at);
  if (!span) return 0;
  return span.laid + Math.min(Math.max(0, at - clearFrom(span)), clearLength(span));
}

/** Where a span takes over from the one before: the middle of the crossfade. */
const handover = (span: Span) => span.at + Math.floor(span.fade_in / 2);

/** The span that leads at a place. */
export function spanAt(plan: Plan, at: number): Span | undefined {
  return plan.spans[Math.max(0, lastIndex(plan.spans, (span) => handover(span) <= at))];
}

const isCard = (span: Span) => span.recording === "card";
/** Rests that were put in have sound of their own, but no picture; a card is one that is seen. */
const isRest = (span: Span) => isCard(span) || span.recording === "silence" || span.recording.startsWith("tone:");

interface Shown {
  span: Span;
  index: number;
  /** Where in the programme it is shown from. */
  from: number;
}

const shown = new WeakMap<Plan, readonly Shown[]>();

/** The spans whose picture is shown, in order: none goes over before the picture that it follows. */
function shownOf(plan: Plan): readonly Shown[] {
  const known = shown.get(plan);
  if (known) return known;
  const list: Shown[] = [];
  plan.spans.forEach((span, index) => {
    if (!isRest(span) || isCard(span)) list.push({ span, index, from: Math.max(handover(span) + span.lead, list.at(-1)?.from ?? -Infinity) });
  });
  shown.set(plan, list);
  return list;
}

export interface Seen {
  recording: string;
  /** Place in it, in ticks. */
  place: number;
  index: number;
  /** In a rest that was put in, the picture before it stands still. */
  still: boolean;
  /** The next span whose picture is shown, and where in the programme that begins. */
  next: { span: Span; at: number } | null;
}

/** What is seen at a place in the programme: the picture goes over at the splice, or so much later as the sound leads. */
export function seenAt(plan: Plan, at: number): Seen | null {
  const list = shownOf(plan);
  const number = Math.max(0, lastIndex(list, ({ from }) => from <= at));
  const seen = list[number];
  if (!seen) return null;
  const { span, index } = seen;
  const heard = spanAt(plan, at);
  const still = heard !== undefined && isRest(heard) && heard.at >= span.at;
  const end = span.at + span.end - span.start - span.fade_out;
  const place = span.start + (still ? Math.min(at, end) : at) - span.at;
  const next = list[number + 1];
  return { recording: span.recording, place: Math.max(0, place), index, still, next: next ? { span: next.span, at: next.from } : null };
}
