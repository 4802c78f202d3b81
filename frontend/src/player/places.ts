/** From laid time (struck words included) to places in the programme and back, by the plan's spans. */
import type { Plan, Span } from "../api/client";

const clearFrom = (span: Span) => span.at + span.fade_in;
const clearLength = (span: Span) => span.end - span.start - span.fade_in - span.fade_out;

function lastIndex(spans: readonly Span[], test: (span: Span) => boolean): number {
  let low = 0;
  let high = spans.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    const span = spans[middle];
    if (span && test(span)) low = middle + 1;
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

/** The span that leads at a place: crossfades hand over in their middle. */
export function spanAt(plan: Plan, at: number): Span | undefined {
  return plan.spans[Math.max(0, lastIndex(plan.spans, (span) => span.at + span.fade_in / 2 <= at))];
}

/** Rests that were put in have sound of their own, but no picture. */
const isRest = (span: Span) => span.recording === "silence" || span.recording.startsWith("tone:");

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
  const from = (span: Span) => span.at + span.fade_in / 2 + span.lead;
  let index = lastIndex(plan.spans, (span) => from(span) <= at);
  while (index >= 0 && isRest(plan.spans[index] as Span)) index--;
  if (index < 0) index = plan.spans.findIndex((span) => !isRest(span));
  const span = plan.spans[index];
  if (!span) return null;
  const heard = spanAt(plan, at);
  const still = heard !== undefined && isRest(heard) && heard.at >= span.at;
  const end = span.at + span.end - span.start - span.fade_out;
  const place = span.start + (still ? Math.min(at, end) : at) - span.at;
  const next = plan.spans.find((each, i) => i > index && !isRest(each));
  return { recording: span.recording, place: Math.max(0, place), index, still, next: next ? { span: next, at: from(next) } : null };
}
