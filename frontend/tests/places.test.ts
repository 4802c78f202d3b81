import { describe, expect, test } from "vitest";
import type { Plan } from "../src/api/client";
import { seenAt, spanAt, toLaid, toProgramme } from "../src/player/places";
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
      expect(seen?.layer.recording ?? null, `at ${at}`).toBe(recording);
      if (place !== null) expect(seen?.place, `at ${at}`).toBe(place);
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
  const empty: Plan = { revision: 0, length: 0, width: 1280, height: 720, fill: false, spans: [], layers: [], beds: [] };
  expect(seenAt(empty, 0)).toBeNull();
  expect(spanAt(empty, 0)).toBeUndefined();
  expect([toLaid(empty, 5), toProgramme(empty, 5)]).toEqual([0, 0]);
});
