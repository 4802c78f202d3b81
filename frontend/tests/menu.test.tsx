// @vitest-environment jsdom
/** What one points at on the page, and the time that is told there. */
import { act, cleanup, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import type { Plan } from "../src/api/client";
import { desk } from "../src/desk/desk";
import { arrive, here, playhead, select } from "../src/desk/place";
import { pointAt } from "../src/page/menu";
import { At, recordedAt, TimesOf } from "../src/page/times";
import { page, seconds, tokensOf } from "./made";

const words = page({ words: ["So", { rest: 1 }, "we", "begin"] }, { recording: "b", words: [{ text: "here", t: seconds(90) }, { text: "", rest: 2, t: -1 }] });
const tokens = tokensOf(words);
const [so, rest, we, begin, there] = tokens.list.map((token) => token.at) as [number, number, number, number, number];

const at = (data: Record<string, string | number>) => {
  const element = document.createElement("span");
  for (const [name, value] of Object.entries(data)) element.dataset[name] = `${value}`;
  return element;
};

beforeEach(() => arrive());
afterEach(cleanup);

describe("a right click", () => {
  test("selects the word it is on", () => {
    expect(pointAt(at({ at: we }), tokens)).toBe("words");
    expect(here().selection).toMatchObject({ anchor: we, focus: we });
    expect(playhead()).toBe(we);
  });

  test("leaves a selection as it is that it is part of", () => {
    select({ anchor: so, focus: begin });
    expect(pointAt(at({ at: rest }), tokens)).toBe("words");
    expect(here().selection).toMatchObject({ anchor: so, focus: begin });
    expect(pointAt(at({ at: there }), tokens)).toBe("words");
    expect(here().selection).toMatchObject({ anchor: there, focus: there });
  });

  test("knows a rest, a passage and a splice", () => {
    expect(pointAt(at({ at: rest }), tokens)).toBe("rest");
    expect(pointAt(at({ passage: 0 }), tokens)).toBe("passage");
    expect(here().selection).toMatchObject({ anchor: so, focus: begin });
    expect(pointAt(at({ splice: we, at: we }), tokens)).toBe("splice");
    expect([here().selection, here().cursor]).toEqual([null, we]);
  });

  test("by key it is about the selection, or the word at the playhead", () => {
    expect(pointAt(document.body, tokens)).toBe("words");
    expect(here().selection).toMatchObject({ anchor: so });
    select({ anchor: rest, focus: rest });
    expect(pointAt(null, tokens)).toBe("rest");
  });
});

describe("times", () => {
  // The rest is taken out.
  const plan = { length: seconds(4), spans: [{ at: 0, until: rest, laid: 0, handover: 0 }, { at: rest, until: seconds(4), laid: we, handover: rest }], layers: [] } as unknown as Plan;

  test("are those of the programme, or on request those of the recordings", () => {
    render(
      <TimesOf plan={plan} tokens={tokens}>
        <output>
          <At laid={there} decimals={1} />
        </output>
      </TimesOf>,
    );
    expect(screen.getByRole("status").textContent).toBe("0:01.5");
    act(() => desk().set({ recordingTimes: true }));
    expect(screen.getByRole("status").textContent).toBe("1:30.0");
    act(() => desk().set({ recordingTimes: false }));
  });

  test("a rest that was put in has the time of what stands before it", () => {
    expect(recordedAt(tokens, there + seconds(1))).toBe(seconds(90.5));
    expect(recordedAt({ list: [], passage: [] }, 7)).toBe(7);
  });
});
