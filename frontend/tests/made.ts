/** Made-up pages for the tests. */
import type { Head, PageWords, Token } from "../src/api/client";
import { RATE } from "../src/api/time";
import { flatten, type Tokens } from "../src/page/tokens";
import type { Finding } from "../src/stages/tidy/judging";

export const seconds = (value: number) => Math.round(value * RATE);

type Word = string | { text?: string; rest?: number; p?: number; loose?: boolean; over?: boolean; lasts?: number; t?: number };

const DEFAULTS = { own: false, says: "" } as Partial<Token>;

/** Passages of one voice each; a string is a word of half a second, `rest` a rest of so many seconds. */
export function page(...passages: { voice?: string; recording?: string; words: Word[] }[]): PageWords {
  let at = 0;
  const made = passages.map(({ voice = "v", recording = "a", words }) => ({
    voice,
    recording,
    asides: [],
    tokens: words.map((each) => {
      const word = typeof each === "string" ? { text: each } : each;
      const len = seconds(word.rest ?? word.lasts ?? 0.5);
      const token = { ...DEFAULTS, k: word.rest === undefined ? "w" : "r", text: word.text ?? "", at, len, t: word.t ?? at, p: word.p ?? 1, loose: word.loose ?? false, over: word.over ?? false };
      at += len;
      return token as Token;
    }),
  }));
  return { passages: made } as unknown as PageWords;
}

export const tokensOf = (words: PageWords): Tokens => flatten(words);

export const head = (more: Partial<Head> = {}): Head =>
  ({ id: "e", revision: 1, struck: [], lifted: [], muted: [], splices: [], levels: [], recorded_time: seconds(60), running_time: seconds(60), ...more }) as unknown as Head;

export const finding = (id: string, more: Partial<Finding> = {}): Finding =>
  ({ id, kind: "filler", text: "um", begin: 0, end: 10, goes: 10, pick: 0, state: "open", takes: [], voice: null, why: "", ...more }) as Finding;
