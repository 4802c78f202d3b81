import { describe, expect, test } from "vitest";
import { covered, flatten, indexAt, selected, withRange } from "../src/page/tokens";
import { page, seconds } from "./made";

const words = page({ words: ["Welcome", "to", { rest: 1 }] }, { voice: "w", words: ["the", "boatyard"] });
const { list, passage } = flatten(words);

test("tokens stand in one list, each with its passage", () => {
  expect(list.map((token) => token.text)).toEqual(["Welcome", "to", "", "the", "boatyard"]);
  expect(passage).toEqual([0, 0, 0, 1, 1]);
});

test("a laid time belongs to the token it lies in, and to the nearest one beyond the ends", () => {
  expect([0, 0.49, 0.5, 1.9, 2, 99].map((at) => indexAt(list, seconds(at)))).toEqual([0, 0, 1, 2, 3, 4]);
  expect(indexAt(list, -5)).toBe(0);
  expect(indexAt([], 5)).toBe(0);
});

describe("what is selected", () => {
  test("is whole tokens, whichever way it was dragged", () => {
    const both = [selected(list, { anchor: seconds(0.6), focus: seconds(2.1) }), selected(list, { anchor: seconds(2.1), focus: seconds(0.6) })];
    expect(both).toEqual([
      [seconds(0.5), seconds(2.5)],
      [seconds(0.5), seconds(2.5)],
    ]);
  });

  test("is exactly what was dragged over where that is meant, and nothing where it has no length", () => {
    expect(selected(list, { anchor: 70, focus: 30, exact: true })).toEqual([30, 70]);
    expect(selected(list, { anchor: 30, focus: 30, exact: true })).toBeNull();
    expect(selected(list, null)).toBeNull();
    expect(selected([], { anchor: 0, focus: 1 })).toBeNull();
  });
});

/** Whether each tick of a small stretch is in some range: what ranges mean, told one by one. */
const inside = (ranges: readonly (readonly number[])[]) => Array.from({ length: 60 }, (_, at) => ranges.some(([from = 0, to = 0]) => from <= at && at < to));

/** The same numbers on every run. */
function* numbers(seed: number) {
  for (let state = seed; ; ) {
    state = (1103515245 * state + 12345) % 2 ** 31;
    yield state >> 8;
  }
}

describe("ranges that are struck", () => {
  const chance = numbers(7);
  const upTo = (most: number) => (chance.next().value as number) % most;

  test("striking and putting back paints what the words then are", () => {
    let ranges: [number, number][] = [];
    let meant = inside([]);
    for (let step = 0; step < 400; step++) {
      const begin = upTo(50);
      const end = begin + 1 + upTo(9);
      const strike = upTo(3) > 0;
      ranges = withRange(ranges, begin, end, strike);
      meant = meant.map((before, at) => (begin <= at && at < end ? strike : before));
      expect(inside(ranges)).toEqual(meant);
      ranges.forEach(([from, to], index) => {
        expect(from).toBeLessThan(to);
        if (index && strike) expect(from).toBeGreaterThan(ranges[index - 1]?.[1] ?? -1);
      });
      if (upTo(20) === 0) [ranges, meant] = [[], inside([])];
    }
  });

  test("how much of a stretch they cover is counted tick by tick", () => {
    for (let round = 0; round < 200; round++) {
      let ranges: [number, number][] = [];
      for (let i = upTo(5); i >= 0; i--) {
        const begin = upTo(50);
        ranges = withRange(ranges, begin, begin + 1 + upTo(9), true);
      }
      const begin = upTo(50);
      const end = begin + upTo(10);
      expect(covered(ranges, begin, end)).toBe(inside(ranges).slice(begin, end).filter(Boolean).length);
    }
  });
});
