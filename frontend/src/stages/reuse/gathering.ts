/** What is laid on the gathering table of a show, in its order; it is still there after a reload. */
import { create } from "zustand";
import { createJSONStorage, persist } from "zustand/middleware";
import type { components } from "../../api/schema";

export type Gathered = components["schemas"]["GatheredOut"];

export interface Card {
  /** The select it was made of; the same one can be laid down twice, so each card has a number of its own. */
  id: number;
  select: string;
  recording: string;
  start: number;
  end: number;
  text: string;
  episode: string;
  colour: Gathered["select"]["colour"];
}

interface Table {
  shows: Readonly<Record<string, readonly Card[]>>;
  next: number;
}

export const useTable = create<Table>()(persist((): Table => ({ shows: {}, next: 1 }), { name: "jaskel.gathered", storage: createJSONStorage(() => localStorage) }));

const NONE: readonly Card[] = [];

export const useCards = (show: string) => useTable((state) => state.shows[show] ?? NONE);

const change = (show: string, cards: (known: readonly Card[]) => readonly Card[]) => useTable.setState(({ shows }) => ({ shows: { ...shows, [show]: cards(shows[show] ?? NONE) } }));

export function lay(show: string, { select, text, episode }: Gathered) {
  const id = useTable.getState().next;
  useTable.setState({ next: id + 1 });
  change(show, (known) => [...known, { id, select: select.id, recording: select.recording, start: select.start, end: select.end, text, episode, colour: select.colour }]);
}

export const takeAway = (show: string, id: number) => change(show, (known) => known.filter((each) => each.id !== id));

export const clear = (show: string) => change(show, () => NONE);

/** Moves a card to another place in the order. */
export const move = (show: string, from: number, to: number) =>
  change(show, (known) => {
    if (to < 0 || to >= known.length || to === from) return known;
    const next = [...known];
    next.splice(to, 0, ...next.splice(from, 1));
    return next;
  });

/** Other ends of a card; none ends before it begins. */
export const trim = (show: string, id: number, ends: { start: number; end: number }) => change(show, (known) => known.map((each) => (each.id === id && ends.start < ends.end ? { ...each, ...ends } : each)));

/** Parts a card where it is, into two of which each is moved by itself. */
export function split(show: string, id: number, at: number) {
  const next = useTable.getState().next;
  useTable.setState({ next: next + 1 });
  change(show, (known) => known.flatMap((each) => (each.id === id && each.start < at && at < each.end ? [{ ...each, end: at }, { ...each, id: next, start: at }] : [each])));
}

export const lengthOf = (cards: readonly Card[]) => cards.reduce((sum, { start, end }) => sum + end - start, 0);
