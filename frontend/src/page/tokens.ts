/** The tokens of a page in one list, and what selecting means on them. */
import type { PageWords, Token } from "../api/client";
import type { Selection } from "../desk/place";

export interface Tokens {
  list: Token[];
  /** Index of the passage each token stands in. */
  passage: number[];
}

export function flatten(page: PageWords): Tokens {
  const list: Token[] = [];
  const passage: number[] = [];
  page.passages.forEach((each, index) => {
    for (const token of each.tokens) {
      list.push(token);
      passage.push(index);
    }
  });
  return { list, passage };
}

/** Index of the token at a laid time. */
export function indexAt(list: readonly Pick<Token, "at">[], laid: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((list[middle]?.at ?? 0) <= laid) low = middle + 1;
    else high = middle;
  }
  return Math.max(0, low - 1);
}

/** From-to in laid time of what is selected: whole tokens, unless exactly what was dragged over is meant. */
export function selected(list: readonly Token[], selection: Selection | null): [number, number] | null {
  if (!selection || !list.length) return null;
  if (selection.exact) {
    const [from, to] = [Math.min(selection.anchor, selection.focus), Math.max(selection.anchor, selection.focus)];
    return from < to ? [from, to] : null;
  }
  const first = list[indexAt(list, Math.min(selection.anchor, selection.focus))];
  const last = list[indexAt(list, Math.max(selection.anchor, selection.focus))];
  return first && last ? [first.at, last.at + last.len] : null;
}

export type Ranges = readonly (readonly number[])[];

/** How much of a stretch of laid time lies in ranges that are in order and apart from one another. */
export function covered(ranges: Ranges, begin: number, end: number): number {
  let low = 0;
  let high = ranges.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((ranges[middle]?.[1] ?? 0) <= begin) low = middle + 1;
    else high = middle;
  }
  let sum = 0;
  for (let i = low; i < ranges.length; i++) {
    const [from = 0, to = 0] = ranges[i] ?? [];
    if (from >= end) break;
    sum += Math.min(end, to) - Math.max(begin, from);
  }
  return sum;
}

/** Ranges with one more (or less), as the server will answer: only for painting until it does. */
export function withRange(ranges: Ranges, begin: number, end: number, strike: boolean): [number, number][] {
  const out: [number, number][] = [];
  for (const [from = 0, to = 0] of ranges) {
    if (strike || to <= begin || from >= end) out.push([from, to]);
    else {
      if (from < begin) out.push([from, begin]);
      if (to > end) out.push([end, to]);
    }
  }
  if (!strike) return out;
  out.push([begin, end]);
  out.sort((a, b) => a[0] - b[0]);
  const joined: [number, number][] = [];
  for (const range of out) {
    const last = joined.at(-1);
    if (last && range[0] <= last[1]) last[1] = Math.max(last[1], range[1]);
    else joined.push(range);
  }
  return joined;
}
