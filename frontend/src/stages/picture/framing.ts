/** A framing of the show as it is drawn on the monitor: slots that are dragged and resized, with guides they snap to. */
import { create } from "zustand";
import type { SchemaOwnFramingField as OwnFraming } from "../../api/schema";

export type Slot = readonly [number, number, number, number];

/** The framing that is being drawn, if one is. */
export const useDrawn = create<{ framing: OwnFraming | null }>(() => ({ framing: null }));

/** Places that edges and middles snap to: the sides, halves and thirds of the picture, and a margin. */
const LINES = [0, 0.04, 1 / 3, 0.5, 2 / 3, 0.96, 1];

/** How near an edge comes to a line before it snaps. */
const NEAR = 0.015;
const LEAST = 0.06;

interface Snapped {
  slot: Slot;
  /** The lines it snapped to: across at heights, and down at widths. */
  across: readonly number[];
  down: readonly number[];
}

/** The nearest line to any of several places, and how far it is. */
function nearest(places: readonly number[], lines: readonly number[]): { by: number; line: number } | null {
  let best: { by: number; line: number } | null = null;
  for (const place of places) {
    for (const line of lines) {
      const by = line - place;
      if (Math.abs(by) < NEAR && (!best || Math.abs(by) < Math.abs(best.by))) best = { by, line };
    }
  }
  return best;
}

/** A slot as it is moved or resized, snapped to lines and to the edges of the others, and kept within the picture. */
export function snapped(slot: Slot, others: readonly Slot[], resizes: boolean): Snapped {
  let [x, y, width, height] = slot;
  const [xs, ys] = [[...LINES, ...others.flatMap(([left, , wide]) => [left, left + wide])], [...LINES, ...others.flatMap(([, top, , high]) => [top, top + high])]];
  const across: number[] = [];
  const down: number[] = [];
  const byX = nearest(resizes ? [x + width] : [x, x + width / 2, x + width], xs);
  const byY = nearest(resizes ? [y + height] : [y, y + height / 2, y + height], ys);
  if (byX) {
    if (resizes) width += byX.by;
    else x += byX.by;
    down.push(byX.line);
  }
  if (byY) {
    if (resizes) height += byY.by;
    else y += byY.by;
    across.push(byY.line);
  }
  width = Math.min(1, Math.max(LEAST, width));
  height = Math.min(1, Math.max(LEAST, height));
  x = Math.min(1 - width, Math.max(0, x));
  y = Math.min(1 - height, Math.max(0, y));
  if (resizes) {
    width = Math.min(width, 1 - x);
    height = Math.min(height, 1 - y);
  }
  return { slot: [x, y, width, height], across, down };
}
