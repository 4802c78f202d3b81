/** A text that is to become a film, and which of its sentences tell it; it is still there after a reload. */
import { create } from "zustand";
import { createJSONStorage, persist } from "zustand/middleware";
import type { components } from "../../api/schema";

export type Sentence = components["schemas"]["WrittenSentenceOut"];

interface Film {
  text: string;
  seconds: number;
  /** None until they were asked for. */
  sentences: readonly Sentence[] | null;
  /** What a person decided about sentences, by their numbers: whether each is told. */
  decided: Readonly<Record<number, boolean>>;
}

const EMPTY: Film = { text: "", seconds: 40, sentences: null, decided: {} };

export const useFilm = create<Film>()(persist((): Film => EMPTY, { name: "jaskel.film", storage: createJSONStorage(() => localStorage) }));

/** Whether a sentence is told: as a person decided, else as it was proposed. */
export const isTold = ({ sentences, decided }: Pick<Film, "sentences" | "decided">, number: number) => decided[number] ?? sentences?.[number]?.chosen ?? false;

export const decide = (number: number, told: boolean) => useFilm.setState(({ decided }) => ({ decided: { ...decided, [number]: told } }));

export const decidedFor = (decided: Film["decided"], told: boolean) =>
  Object.entries(decided)
    .filter(([, each]) => each === told)
    .map(([number]) => Number(number));
