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
