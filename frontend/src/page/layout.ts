/**
 * Where the words of a passage stand, measured once whenever that changes. Everything that is drawn over, between, under and
 * beside words goes by this, and so do keys that go from line to line.
 */
import { indexAt } from "./tokens";

export interface Box {
  /** Laid time of the token, and how long it is. */
  at: number;
  len: number;
  left: number;
  top: number;
  width: number;
  height: number;
}

export interface Layout {
  boxes: readonly Box[];
  width: number;
  height: number;
}

export const NO_LAYOUT: Layout = { boxes: [], width: 0, height: 0 };

/** Measures the tokens inside an element; those that are not shown have no box. */
export function measure(element: HTMLElement, lengthOf: (at: number) => number): Layout {
  const boxes: Box[] = [];
  for (const token of element.querySelectorAll<HTMLElement>("[data-token]")) {
    const at = Number(token.dataset["at"]);
    if (token.offsetWidth) boxes.push({ at, len: lengthOf(at), left: token.offsetLeft, top: token.offsetTop, width: token.offsetWidth, height: token.offsetHeight });
  }
  return { boxes, width: element.offsetWidth, height: element.offsetHeight };
}

/** The part of a stretch that stands on one line. */
export interface Piece {
  left: number;
  right: number;
  top: number;
  height: number;
  /** The laid times of its first token and of the end of its last. */
  begin: number;
  end: number;
}

/** Where a stretch of laid time stands: one piece for each line. A token belongs to it where its middle does. */
export function pieces({ boxes }: Layout, begin: number, end: number): Piece[] {
  const found: Piece[] = [];
  for (let i = indexAt(boxes, begin); i < boxes.length; i++) {
    const box = boxes[i];
    if (!box || box.at >= end) break;
    const middle = box.at + box.len / 2;
    if (middle < begin || middle >= end) continue;
    const last = found.at(-1);
    if (last && Math.abs(last.top - box.top) < box.height / 2) {
      last.right = box.left + box.width;
      last.end = box.at + box.len;
    } else found.push({ left: box.left, right: box.left + box.width, top: box.top, height: box.height, begin: box.at, end: box.at + box.len });
  }
  return found;
}

/** The box of the token at a laid time. */
export const boxAt = ({ boxes }: Layout, laid: number): Box | undefined => boxes[indexAt(boxes, laid)];

/** The columns of a passage: who speaks and when, the words, and the margin, which with the page's own edge has room for two marks. */
export const PASSAGE_COLUMNS = "grid grid-cols-[86px_1fr_40px]";

/** Pixels from one mark beside a line to the next, how many stand side by side, and where the first of them does. */
const STEP = 20;
const COLUMNS = 2;
const FIRST = 8;

/**
 * Where marks stand beside lines, in pixels: at the height they ask for or below it, none over another. Those named first
 * stay where they are when others come and go.
 */
export function besideLines(tops: readonly number[]): { left: number; top: number }[] {
  const found: { left: number; top: number }[] = [];
  for (let top of tops) {
    for (;;) {
      const near = found.filter((other) => Math.abs(other.top - top) < STEP);
      const left = Array.from({ length: COLUMNS }, (_, column) => FIRST + column * STEP).find((x) => near.every((other) => other.left !== x));
      if (left !== undefined) {
        found.push({ left, top });
        break;
      }
      top = Math.min(...near.map((other) => other.top)) + STEP;
    }
  }
  return found;
}

// What is on the screen now, for keys that go by lines.
const shown = new Map<HTMLElement, Layout>();

/** Let keys go by a layout as long as it is shown. */
export function showLayout(element: HTMLElement, layout: Layout): () => void {
  shown.set(element, layout);
  return () => void shown.delete(element);
}

/** The token on the line above or below that is nearest to one, among the passages that are on the screen. */
export function acrossLines(at: number, way: 1 | -1): number | null {
  const all = [...shown].flatMap(([element, { boxes }]) => {
    const { left, top } = element.getBoundingClientRect();
    return boxes.map((box) => ({ at: box.at, middle: left + box.left + box.width / 2, top: top + box.top, height: box.height }));
  });
  const from = all.find((box) => box.at === at);
  if (!from) return null;
  const beyond = all.filter((box) => way * (box.top - from.top) > from.height / 2);
  const line = way * Math.min(...beyond.map((box) => way * box.top));
  const near = beyond.filter((box) => Math.abs(box.top - line) < from.height / 2);
  const best = near.reduce<(typeof near)[number] | null>((known, box) => (known && Math.abs(known.middle - from.middle) <= Math.abs(box.middle - from.middle) ? known : box), null);
  return best?.at ?? null;
}
