/** Finding words on the page, and the places one steps through: unsure, loose and struck words, long rests, sounds. */
import type { Head, PageWords, Token } from "../api/client";
import { RATE } from "../api/time";
import { covered, type Tokens } from "./tokens";

export type Range = readonly [number, number];

export const UNSURE = 0.5;
const LONG_REST = 2 * RATE;

export interface Query {
  text: string;
  whole: boolean;
  /** Only what this voice says; empty for all. */
  voice: string;
}

const plain = (text: string) => text.toLocaleLowerCase().replace(/[^\p{L}\p{N}]+/gu, "");

/** Laid from-to of every place where the words of a query are said one after the other. */
export function find(page: PageWords, tokens: Tokens, { text, whole, voice }: Query): Range[] {
  const wanted = text.split(/\s+/).map(plain).filter(Boolean);
  if (!wanted.length) return [];
  const words: { token: Token; plain: string; voice: string }[] = [];
  tokens.list.forEach((token, index) => {
    if (token.k === "w") words.push({ token, plain: plain(token.text), voice: page.passages[tokens.passage[index] ?? 0]?.voice ?? "" });
  });
  const fits = (said: string, index: number) => {
    const want = wanted[index] ?? "";
    if (whole) return said === want;
    const first = index === 0;
    const last = index === wanted.length - 1;
    if (first && last) return said.includes(want);
    return first ? said.endsWith(want) : last ? said.startsWith(want) : said === want;
  };
  const found: Range[] = [];
  for (let i = 0; i + wanted.length <= words.length; i++) {
    if (!wanted.every((_, k) => fits(words[i + k]?.plain ?? "", k))) continue;
    if (voice && words[i]?.voice !== voice) continue;
    const first = words[i]?.token;
    const last = words[i + wanted.length - 1]?.token;
    if (!first || !last) continue;
    found.push([first.at, last.at + last.len]);
    i += wanted.length - 1;
  }
  return found;
}

export const KINDS = [
  ["unsure", "unsure words"],
  ["loose", "loose words"],
  ["over", "words spoken at once"],
  ["struck", "struck stretches"],
  ["rests", "long rests"],
  ["sounds", "sounds in brackets"],
] as const;
export type Kind = (typeof KINDS)[number][0];

/** Whether a word stands for a sound that is no word, such as “[laughter]”. */
export const isSound = (text: string) => /^\[[^\]]+\][.,;:!?…]*$/.test(text);

const alone = (token: Token): Range => [token.at, token.at + token.len];

export function places(kind: Kind, tokens: Tokens, head: Head): Range[] {
  const kept = (token: Token) => covered(head.struck, token.at, token.at + token.len) < token.len;
  switch (kind) {
    case "unsure":
      return tokens.list.filter((token) => token.k === "w" && token.p < UNSURE && kept(token)).map(alone);
    case "loose":
      return tokens.list.filter((token) => token.loose).map(alone);
    case "over":
      return tokens.list.filter((token) => token.over && kept(token)).map(alone);
    case "sounds":
      return tokens.list.filter((token) => token.k === "w" && isSound(token.text) && kept(token)).map(alone);
    case "struck":
      return head.struck.map(([begin = 0, end = 0]) => [begin, end] as const);
    case "rests":
      return tokens.list.filter((token) => token.k === "r" && token.len >= LONG_REST && kept(token)).map(alone);
  }
}

/** The next place after (or the last before) a laid time, going round at the ends. */
export function step(list: readonly Range[], from: number, way: 1 | -1): Range | undefined {
  if (way > 0) return list.find(([begin]) => begin > from) ?? list[0];
  return list.findLast(([begin]) => begin < from) ?? list.at(-1);
}

/** The words around a place, for a list of hits. */
export function around(tokens: Tokens, [begin, end]: Range, count: number): [string, string, string] {
  const words = tokens.list.filter((token) => token.k === "w");
  const first = words.findIndex((token) => token.at + token.len > begin);
  let last = first;
  while (words[last] && (words[last]?.at ?? 0) < end) last++;
  const text = (from: number, to: number) => words.slice(Math.max(0, from), Math.max(0, to)).map((token) => token.text).join(" ");
  return [text(first - count, first), text(first, last), text(last, last + count)];
}
