import { describe, expect, test } from "vitest";
import type { Plan } from "../src/api/client";
import { cropAt, placeIn, seenAt, spanAt, toLaid, toProgramme } from "../src/player/places";
import cases from "./plans.json";

/** What the core says of made-up plans: tests/core/test_plans_of_the_page.py writes it. */
const PLANS = cases.map(({ plan, ...said }, number) => ({ plan: plan satisfies Plan, said, number }));

describe.each(PLANS)("plan $number", ({ plan, said }) => {
  test("the span that leads is the core's", () => {
    for (const [at = 0, index = 0] of said.leads) expect(spanAt(plan, at)).toBe(plan.spans[index]);
  });

  test("what is seen is what the core shows", () => {
    for (const [at, recording, place] of said.seen) {
      const seen = seenAt(plan, Number(at));
      const view = seen?.layer.views[0];
      expect(view?.recording ?? null, `at ${at}`).toBe(recording);
      if (view && seen) expect(placeIn(view, Number(at) - seen.layer.begin), `at ${at}`).toBe(place);
    }
  });

  test("laid times sound where the core's spans have them", () => {
    for (const [laid = 0, at] of said.sounds) expect(toProgramme(plan, laid)).toBe(at);
  });

  test("from laid time to the programme and back leads to the same place, or to the next that sounds", () => {
    for (const [laid = 0] of said.sounds) {
      const there = toProgramme(plan, laid);
      if (there < plan.length) expect(toProgramme(plan, toLaid(plan, there))).toBe(there);
    }
  });
});

test("an empty plan shows and plays nothing", () => {
  const empty: Plan = { revision: 0, length: 0, width: 1280, height: 720, spans: [], layers: [], beds: [], overlays: [], card: "" };
  expect(seenAt(empty, 0)).toBeNull();
  expect(spanAt(empty, 0)).toBeUndefined();
  expect([toLaid(empty, 5), toProgramme(empty, 5)]).toEqual([0, 0]);
});

test("a crop moves evenly from one place to the next", () => {
  const view = { recording: "r", place: 0, speed: 1, box: [0, 0, 1, 1], still: false, colours: null, covers: [], corner: 0, border: 0, border_colour: "", blurred: false, turned: null, crops: [{ at: 0, box: [0, 0, 1, 1] }, { at: 100, box: [0.25, 0.25, 0.5, 0.5] }] };
  expect(cropAt(view, 50)).toEqual({ left: 0.125, top: 0.125, width: 0.75, height: 0.75 });
  expect(cropAt(view, 400)).toEqual({ left: 0.25, top: 0.25, width: 0.5, height: 0.5 });
});
