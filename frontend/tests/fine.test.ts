import { describe, expect, test } from "vitest";
import { RATE } from "../src/api/time";
import { byProgramme, byRecordings, edges, quietPlaces, ruler, segments, snapped } from "../src/page/fine";
import type { Source } from "../src/page/sources";
import { flatten } from "../src/page/tokens";
import type { Plan } from "../src/api/client";
import { toLaid } from "../src/player/places";
import { head, page, seconds } from "./made";
import plans from "./plans.json";

const source = (id: string): Source => ({ id, name: id, staves: [] });
const sources = new Map(["a", "b"].map((id) => [id, source(id)]));

describe("stretches of sources", () => {
  test("run on over words of one recording, and break where the place in it jumps", () => {
    const words = page({ words: ["one", "two", { text: "later", t: seconds(9) }] }, { recording: "b", words: [{ text: "else", t: 0 }, { rest: 1, t: -1 }] });
    const found = segments(words, flatten(words), sources, 0, seconds(9));
    expect(found.map(({ at, end, source: from, start }) => [at, end, from?.id, start])).toEqual([
      [0, seconds(1), "a", 0],
      [seconds(1), seconds(1.5), "a", seconds(9)],
      [seconds(1.5), seconds(2), "b", 0],
      [seconds(2), seconds(3), "b", -1],
    ]);
  });

  test("are cut to what is asked for, and their places with them", () => {
    const words = page({ words: ["one", "two", "three"] });
    expect(segments(words, flatten(words), sources, seconds(0.2), seconds(0.7))).toMatchObject([
      { at: seconds(0.2), end: seconds(0.7), start: seconds(0.2) },
    ]);
  });
});

describe("edges", () => {
  test("stand on both sides of what is struck, and belong to its splice", () => {
    const now = head({ struck: [[100, 200]], splices: [200] });
    expect(edges(now, 0, 1000)).toEqual([
      { at: 100, side: "before", splice: 200 },
      { at: 200, side: "after", splice: 200 },
    ]);
  });

  test("at the beginning and the end have one side only", () => {
    const end = head().recorded_time;
    const now = head({ struck: [[0, 50], [end - 50, end]] });
    expect(edges(now, 0, end)).toEqual([
      { at: 50, side: "after", splice: null },
      { at: end - 50, side: "before", splice: null },
    ]);
  });

  test("a splice at which nothing was taken out has both at one place", () => {
    expect(edges(head({ splices: [300] }), 0, 1000).map((edge) => [edge.at, edge.side])).toEqual([
      [300, "before"],
      [300, "after"],
    ]);
  });
});

describe("what is dragged", () => {
  const { list } = flatten(page({ words: ["one", "two"] }));

  test("stops at edges of words and at quiet places that are near enough", () => {
    expect(snapped(seconds(0.52), seconds(0.05), list, [])).toBe(seconds(0.5));
    expect(snapped(seconds(0.6), seconds(0.05), list, [])).toBe(seconds(0.6));
    expect(snapped(seconds(0.6), seconds(0.05), list, [seconds(0.58)])).toBe(seconds(0.58));
  });

  test("quiet places are where the envelope is at its lowest between louder ones", () => {
    const peaks = Uint8Array.from({ length: 100 }, (_, i) => (i === 40 ? 3 : i === 60 ? 60 : 120));
    const segment = { at: seconds(10), end: seconds(11), source: undefined, start: 0 };
    expect(quietPlaces(peaks, segment, seconds(10.4), seconds(0.3))).toEqual([seconds(10) + 40.5 * (RATE / 100)]);
    expect(quietPlaces(undefined, segment, seconds(10.4), seconds(0.3))).toEqual([]);
    expect(quietPlaces(peaks, { ...segment, start: -1 }, seconds(10.4), seconds(0.3))).toEqual([]);
  });
});

test.each([
  [0, 1, 0.1],
  [59.5, 63, 0.5],
  [0, 600, 10],
])("a ruler from %d to %d s has a mark each %d s", (begin, end, apart) => {
  const marks = ruler([{ begin: seconds(begin), end: seconds(end), time: seconds(begin) }], seconds(begin), seconds(end));
  expect(marks.length).toBeGreaterThan(4);
  marks.slice(1).forEach((mark, i) => expect(mark.at - (marks[i]?.at ?? 0)).toBeCloseTo(apart * RATE, -1));
  for (const { at, label } of marks) {
    if (!label) continue;
    const [minutes = "", rest = ""] = label.split(":");
    expect(60 * Number(minutes) + Number(rest)).toBeCloseTo(at / RATE, 2);
  }
});

describe("the ruler's clocks", () => {
  const cases = [...plans.map(({ plan }) => plan as Plan)];

  test.each(cases.map((plan, number) => [number, plan] as const))("of plan %d say what the programme's clock says", (_, plan) => {
    const end = Math.max(...plan.spans.map((span) => span.laid + span.until - span.at));
    const marks = ruler(byProgramme(plan, 0, end), 0, end);
    for (const { at, label } of marks) {
      if (!label) continue;
      const [minutes = "", rest = ""] = label.split(":");
      expect(Math.abs(toLaid(plan, (60 * Number(minutes) + Number(rest)) * RATE) - at) / RATE).toBeLessThan(0.006);
    }
  });

  test("stand where something is taken out, or where it is no recording's sound", () => {
    const plan = { length: 6, spans: [{ at: 0, until: 3, laid: 0, handover: 0 }, { at: 3, until: 6, laid: 5, handover: 3 }] } as unknown as Plan;
    expect(byProgramme(plan, 0, 8)).toEqual([
      { begin: 0, end: 3, time: 0 },
      { begin: 5, end: 8, time: 3 },
    ]);
    expect(byProgramme(plan, 1, 6)).toEqual([
      { begin: 1, end: 3, time: 1 },
      { begin: 5, end: 6, time: 3 },
    ]);
    const parts = [
      { at: 0, end: 2, source: undefined, start: 40 },
      { at: 2, end: 3, source: undefined, start: -1 },
    ];
    expect(byRecordings(parts)).toEqual([{ begin: 0, end: 2, time: 40 }]);
  });
});
