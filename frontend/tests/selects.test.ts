import { describe, expect, it } from "vitest";
import { onwards, type ShownSelect } from "../src/page/selectsShown";

const SELECTS: readonly ShownSelect[] = [
  { begin: 100, end: 200, colour: "amber" },
  { begin: 150, end: 260, colour: "moss" },
  { begin: 400, end: 500, colour: "sky" },
];

describe("playing only what is marked as good", () => {
  it.each([
    [0, false, 100],
    [120, false, 120],
    [230, false, 230],
    [260, false, 400],
    [500, false, null],
    [600, true, 500],
    [499, true, 499],
    [350, true, 260],
    [99, true, null],
  ])("goes on from %d (backwards: %s) at %s", (at, backwards, next) => expect(onwards(SELECTS, at, backwards)).toBe(next));
});
