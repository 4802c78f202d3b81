/**
 * Marks as they are drawn: each is a stretch of laid time in one lane of the page. Stages say what theirs are and which lanes
 * matter to them; how a lane is drawn is written once, in `Lanes.tsx`.
 */
import type { ReactNode } from "react";
import type { Selection } from "../desk/place";

/** Above the words stands what is seen, over them are washes, between them bars and symbols, below them staves, beside them brackets. */
export type Lane = "above" | "over" | "between" | "below" | "margin";

/** A faint lane is a thin outline with text that can still be read. */
export type Strength = "strong" | "faint" | "hidden";

export interface PageMark {
  id: string;
  lane: Lane;
  begin: number;
  end: number;
  /** How it is drawn, by a name in styles.css. */
  look: string;
  /** One of the six colours of selects. */
  colour?: string;
  /** The ink of a voice, as the name of a CSS variable. */
  ink?: string;
  /** What can be read in it, above and below the words; of a symbol between them, the symbol. */
  text?: string;
  /** The address of a small picture before its text. */
  picture?: string;
  /** In which row of its lane it stands, where others overlap it. */
  row?: number;
  /** How its level moves: laid times, and heights from 0 to 1. */
  envelope?: readonly (readonly [number, number])[];
  /** How loud it is by itself at a laid time, from 0 to 1. */
  wave?: (laid: number) => number;
  /** What it is, to those who point at it and to those who hear the page. */
  label?: string;
  /** What a click on it selects. */
  selects?: Selection;
  /** Stores where it was dragged to. */
  resize?: (begin: number, end: number) => Promise<unknown>;
  /** Stores to which word its beginning was dragged, where it has no end of its own. */
  begins?: (laid: number) => Promise<unknown>;
  /** Stores to which word a bar between words was dragged. */
  move?: (to: number) => Promise<unknown>;
  /** A mark of the margin that does more than be clicked. */
  drawn?: ReactNode;
}

/** Where something of the material stands on the page. */
export interface Placed {
  id: string;
  begin: number;
  end: number;
  /** The place in the recording of a laid time near it. */
  toMaterial: (laid: number) => number;
}

export const NO_MARKS: readonly PageMark[] = [];

export type Strengths = Readonly<Record<Lane, Strength>>;

const STRONG: Strengths = { above: "strong", over: "strong", between: "strong", below: "strong", margin: "strong" };

/** How lanes are drawn: as the stage wants it, unless somebody hid one by hand. */
export const strengthsOf = (stage: Partial<Strengths> = {}, byHand: Readonly<Partial<Record<Lane, boolean>>> = {}): Strengths =>
  Object.fromEntries(Object.entries({ ...STRONG, ...stage }).map(([lane, strength]) => [lane, shown(strength, byHand[lane as Lane])])) as unknown as Strengths;

const shown = (strength: Strength, byHand: boolean | undefined): Strength => (byHand === undefined ? strength : !byHand ? "hidden" : strength === "hidden" ? "faint" : strength);

/** Lanes that take room of their own, which somebody may want for words, and what stands in them. */
export const ROOMY = [
  ["above", "pictures"],
  ["below", "music"],
] as const satisfies readonly (readonly [Lane, string])[];

/** Pixels that they take. */
export const ROOM = 19;

/** How much room a lane takes, in pixels: none where nothing stands in it that is shown. */
export const roomOf = (lane: Lane, marks: readonly PageMark[], strengths: Strengths) => (strengths[lane] === "hidden" ? 0 : ROOM * Math.max(0, ...marks.filter((mark) => mark.lane === lane).map((mark) => (mark.row ?? 0) + 1)));

/** What of them lies between two laid times. */
export function between(marks: readonly PageMark[], begin: number, end: number): readonly PageMark[] {
  const found = marks.filter((mark) => mark.begin < end && (mark.end > begin || (mark.end === mark.begin && mark.begin >= begin)));
  return found.length ? found : NO_MARKS;
}

/** The same marks, each in the first row from a given one on in which it touches none of those before it. */
export function inRows(marks: readonly PageMark[], from: number): PageMark[] {
  const taken: PageMark[][] = [];
  return marks.map((mark) => {
    const free = taken.findIndex((row) => row.every(({ begin, end }) => mark.end <= begin || mark.begin >= end));
    const row = free < 0 ? taken.length : free;
    (taken[row] ??= []).push(mark);
    return { ...mark, row: from + row };
  });
}

/** How high an envelope is at a place. */
export function levelAt(points: readonly (readonly [number, number])[], at: number): number {
  const after = points.findIndex(([place]) => place >= at);
  const [end, high] = points[after] ?? points.at(-1) ?? [at, 0];
  const [start, low] = points[after - 1] ?? [end, high];
  return end > start ? low + ((high - low) * (at - start)) / (end - start) : high;
}
