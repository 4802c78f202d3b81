import { expect, test } from "vitest";
import { bytes, clock } from "../src/api/time";
import { heightAt } from "../src/page/draw";
import { inkOf, sounds, sourcesOf, toRecording } from "../src/page/sources";
import type { Episode, Head, Voice } from "../src/api/client";
import { seconds } from "./made";

test.each([
  [0, 0, "0:00"],
  [3.999, 0, "0:03"],
  [59.96, 1, "0:59.9"],
  [192, 0, "3:12"],
  [3723, 0, "1:02:03"],
  [3723.456, 2, "1:02:03.45"],
  [-4, 0, "0:00"],
])("%d s read with %d decimals is %s", (at, decimals, text) => expect(clock(seconds(at), decimals)).toBe(text));

test.each([
  [10, "1 kB"],
  [25_400, "25 kB"],
  [3_768_989, "3.8 MB"],
  [12_345_678_901, "12.35 GB"],
])("%d bytes are %s", (size, text) => expect(bytes(size)).toBe(text));

test("levels that were set change how tall a track is drawn, and only there", () => {
  const levels = [
    { track: "a", start: 0, end: 100, decibels: -12 },
    { track: "a", start: 100, end: 200, decibels: -120 },
  ] as unknown as Head["levels"];
  expect(heightAt(levels, "a", 50)).toBeCloseTo(0.5, 1);
  expect([heightAt(levels, "a", 100), heightAt(levels, "a", 200), heightAt(levels, "b", 50)]).toEqual([0, 1, 1]);
});

test("a session is one source, with staves for what sounds", () => {
  const track = (recording: string, sounds: boolean, offset: number) => ({ recording, sounds, offset, drift: 0, voice: null });
  const episode = {
    recordings: [
      { id: "mic", name: "Mic", working_copy: false },
      { id: "cam", name: "Cam", working_copy: true },
    ],
    sessions: [{ id: "s", name: "Talk", tracks: [track("mic", true, 0), track("cam", false, 480)] }],
    voices: [],
  } as unknown as Episode;
  const sources = sourcesOf(episode);
  expect(sources.get("s")).toMatchObject({ name: "Talk" });
  expect(sources.get("s")?.staves.map((stave) => stave.recording)).toEqual(["mic"]);
});

test("voices told apart in one recording have a stave each, with sound in their own passages only", () => {
  const episode = { recordings: [{ id: "mix", name: "Mix" }], sessions: [], voices: [{ id: "teo", number: 2 }, { id: "orla", number: 1 }] } as unknown as Episode;
  const said = (...voices: (string | null)[]) => voices.map((voice) => ({ recording: "mix", voice, tokens: [] })) as never;
  const staves = (...voices: (string | null)[]) => sourcesOf(episode, said(...voices)).get("mix")?.staves ?? [];
  expect(staves("teo", "orla", "teo", null).map((stave) => stave.voice)).toEqual(["orla", "teo"]);
  expect(staves("teo", "teo").map((stave) => stave.voice)).toEqual([null]);
  const [orla, teo] = staves("teo", "orla");
  expect(orla && teo && [sounds(orla, "orla"), sounds(orla, "teo"), sounds(teo, "teo")]).toEqual([true, false, true]);
  const [all] = staves("teo");
  expect(all && sounds(all, "teo")).toBe(true);
});

test("a track that began later and runs fast is found at its own place", () => {
  const stave = { recording: "a", voice: null, offset: seconds(2), drift: 100e-6 };
  expect(toRecording(stave, seconds(2))).toBe(0);
  expect(toRecording(stave, seconds(3602)) - seconds(3600)).toBeCloseTo(-seconds(0.36), -1);
});

test("voices have inks of their own, again from the first after the last", () => {
  const ink = (number: number) => inkOf({ number } as Voice);
  expect(new Set([1, 2, 3, 4, 5, 6].map(ink)).size).toBe(6);
  expect(ink(7)).toBe(ink(1));
  expect(inkOf(undefined)).toBe("--wave");
});
