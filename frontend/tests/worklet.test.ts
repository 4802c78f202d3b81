/** The player on the audio thread, driven as a browser drives it: 128 samples at a time. */
import { beforeAll, beforeEach, describe, expect, test, vi } from "vitest";
import type { FromPlayer, ToPlayer } from "../src/player/worklet";

const RATE = 48_000;
const QUANTUM = 128;

interface Processor {
  port: { onmessage: (event: { data: ToPlayer }) => void; postMessage: (message: FromPlayer) => void };
  process: (inputs: Float32Array[][], outputs: Float32Array[][]) => boolean;
}

let Made: new () => Processor;

beforeAll(async () => {
  vi.stubGlobal("sampleRate", RATE);
  vi.stubGlobal("AudioWorkletProcessor", class {
    port = { onmessage: () => undefined, postMessage: () => undefined };
  });
  vi.stubGlobal("registerProcessor", (_: string, processor: new () => Processor) => (Made = processor));
  await import("../src/player/worklet");
});

let player: Processor;
let told: FromPlayer[];

beforeEach(() => {
  told = [];
  player = new Made();
  player.port.postMessage = (message) => told.push(message);
});

const tell = (message: ToPlayer) => player.port.onmessage({ data: message });
const start = (at: number, length: number, speed = 1, run = 1) => tell({ kind: "start", run, at, speed, length });

/** Sample `i` of the programme is sound(i), left; right is its negative. */
function give(from: number, to: number, sound: (at: number) => number, run = 1) {
  const left = Float32Array.from({ length: to - from }, (_, i) => sound(from + i));
  tell({ kind: "block", run, at: from, left, right: left.map((sample) => -sample) });
}

function hear(quanta: number): { left: number[]; right: number[] } {
  const heard: { left: number[]; right: number[] } = { left: [], right: [] };
  for (let i = 0; i < quanta; i++) {
    const out = [new Float32Array(QUANTUM), new Float32Array(QUANTUM)];
    player.process([], [out]);
    heard.left.push(...(out[0] ?? []));
    heard.right.push(...(out[1] ?? []));
  }
  return heard;
}

const ramp = (at: number) => Math.fround(at / 2 ** 20);
const tone = (at: number) => 0.5 * Math.sin((2 * Math.PI * 440 * at) / RATE);

/** Hertz, by how often the sound goes up through zero. */
function pitch(sound: readonly number[]): number {
  let crossings = 0;
  for (let i = 1; i < sound.length; i++) if ((sound[i - 1] ?? 0) < 0 && (sound[i] ?? 0) >= 0) crossings++;
  return (crossings * RATE) / sound.length;
}

describe("at its own speed", () => {
  test("every sample is heard once and in order, over the borders of blocks", () => {
    start(100, 10_000);
    give(0, 777, ramp);
    give(777, 5_000, ramp);
    const { left, right } = hear(20);
    expect(left).toEqual(Array.from({ length: 20 * QUANTUM }, (_, i) => ramp(100 + i)));
    expect(right).toEqual(left.map((sample) => -sample));
  });

  test("what has not come yet is waited for, and nothing is skipped", () => {
    start(0, 10_000);
    give(0, 2 * QUANTUM, ramp);
    hear(8);
    expect(told.at(-1)).toMatchObject({ at: 2 * QUANTUM, state: "waiting" });
    give(2 * QUANTUM, 10_000, ramp);
    const { left } = hear(4);
    expect(left[0]).toBe(ramp(2 * QUANTUM));
    expect(told.at(-1)).toMatchObject({ at: 6 * QUANTUM, state: "playing" });
  });

  test("at the end it says so once and is silent", () => {
    start(0, 300);
    give(0, 300, () => 0.5);
    const { left } = hear(12);
    expect(left.filter(Boolean)).toHaveLength(300);
    expect(told.map((message) => message.state)).toEqual(["ended"]);
    expect(told[0]?.at).toBe(300);
  });

  test("blocks of an earlier run are not heard in the next", () => {
    start(0, 1000, 1, 1);
    start(0, 1000, 1, 2);
    give(0, 1000, () => 0.9, 1);
    expect(hear(2).left.every((sample) => sample === 0)).toBe(true);
    give(0, 1000, () => 0.1, 2);
    expect(hear(1).left[0]).toBeCloseTo(0.1);
  });

  test("stopped, it is silent and stays where it is", () => {
    start(0, 10_000);
    give(0, 10_000, ramp);
    hear(4);
    tell({ kind: "stop" });
    told = [];
    expect(hear(8).left.every((sample) => sample === 0)).toBe(true);
    expect(told).toEqual([]);
  });
});

describe.each([0.5, 1.5, 3])("at %d times the speed", (speed) => {
  test("the pitch stays and the place goes on as fast as that", () => {
    const length = 6 * RATE;
    start(0, length, speed);
    give(0, length, tone);
    const quanta = RATE / QUANTUM;
    const { left } = hear(quanta);
    expect(pitch(left.slice(RATE / 4))).toBeGreaterThan(430);
    expect(pitch(left.slice(RATE / 4))).toBeLessThan(450);
    const at = told.at(-1)?.at ?? 0;
    expect(at / RATE).toBeGreaterThan(0.85 * speed);
    expect(at / RATE).toBeLessThan(1.05 * speed);
  });
});

test("the speed changes while it plays, and it goes on from what was heard last", () => {
  start(0, 4 * RATE);
  give(0, 4 * RATE, tone);
  hear(100);
  const before = told.at(-1)?.at ?? 0;
  tell({ kind: "speed", speed: 2 });
  hear(100);
  const after = told.at(-1)?.at ?? 0;
  expect(after - before).toBeGreaterThan(100 * QUANTUM);
  expect(after - before).toBeLessThan(2.1 * 100 * QUANTUM);
});

describe("backwards", () => {
  test("samples are heard in the other order", () => {
    start(5_000, 10_000, -1);
    give(0, 10_000, ramp);
    expect(hear(4).left).toEqual(Array.from({ length: 4 * QUANTUM }, (_, i) => ramp(5_000 - 1 - i)));
  });

  test("it ends at the beginning", () => {
    start(300, 10_000, -2);
    give(0, 10_000, ramp);
    hear(6);
    expect(told.at(-1)).toMatchObject({ at: 0, state: "ended" });
  });
});
