/** Going from one place to the next. */
import type { Head } from "../api/client";
import { here, playhead, select, type Selection } from "../desk/place";
import { player } from "../player/player";
import { places, step } from "./find";

/** Select the next place and go there. */
export function stepTo(list: ReturnType<typeof places>, way: 1 | -1, reveal: (laid: number) => void) {
  const from = here().selection ? Math.min(here().selection?.anchor ?? 0, here().selection?.focus ?? 0) : playhead();
  const next = step(list, from, way);
  if (!next) return;
  select({ anchor: next[0], focus: Math.max(next[0], next[1] - 1) });
  player.seek(next[0]);
  reveal(next[0]);
}

/** The splice at a selection or a laid time, or else the nearest one. */
export function spliceNear(head: Head, place: Selection | number): number | undefined {
  const at = typeof place === "number" ? place : Math.max(place.anchor, place.focus);
  return head.splices.reduce<number | undefined>((best, each) => (best === undefined || Math.abs(each - at) < Math.abs(best - at) ? each : best), undefined);
}
