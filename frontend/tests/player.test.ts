/** Listening, with an audio thread that only notes what it is told. */
import { beforeEach, describe, expect, test, vi } from "vitest";
import type { Plan } from "../src/api/client";
import { client } from "../src/api/client";
import { desk } from "../src/desk/desk";
import { playhead, put, run } from "../src/desk/place";
import { Player } from "../src/player/player";
import type { FromPlayer, ToPlayer } from "../src/player/worklet";
import { seconds } from "./made";

interface Port {
  onmessage?: (event: { data: FromPlayer }) => void;
  postMessage: (message: ToPlayer) => void;
}

let port: Port;
let told: ToPlayer[];
let fetched: string[];

/** Stretches of one recording in the order of the programme: [laid from, laid to], each with the crossfade of 10 ms before it. */
function planOf(revision: number, ...kept: [number, number][]): Plan {
  let at = 0;
  const spans = kept.map(([from, to], index) => {
    const handover = at + (index ? 240 : 0);
    at += index ? 480 : 0;
    const span = { handover, at, until: at + seconds(to) - seconds(from), laid: seconds(from) };
    at = span.until;
    return span;
  });
  return { revision, length: at, width: 1280, height: 720, spans, layers: [], beds: [], overlays: [], card: "" };
}

/** A WAV file of so many stereo samples, with a chunk before its sound that is none of it. */
function wav(samples: number): ArrayBuffer {
  const view = new DataView(new ArrayBuffer(12 + 8 + 4 + 8 + 4 * samples));
  const name = (at: number, text: string) => [...text].forEach((letter, i) => view.setUint8(at + i, letter.charCodeAt(0)));
  name(0, "RIFF");
  name(12, "LIST");
  view.setUint32(16, 4, true);
  name(24, "data");
  view.setUint32(28, 4 * samples, true);
  for (let i = 0; i < samples; i++) {
    view.setInt16(32 + 4 * i, 32767, true);
    view.setInt16(34 + 4 * i, -32767, true);
  }
  return view.buffer;
}

const BLOCK = seconds(2);
const blocksFrom = (length: number, at: number) => {
  const blocks = [];
  for (let from = Math.floor(at / BLOCK) * BLOCK; from < length && blocks.length < 4; from += BLOCK) blocks.push({ at: from, until: Math.min(length, from + BLOCK), key: `k${from}` });
  return { length, blocks };
};

let plan: Plan;
let player: Player;
let refused: boolean;

beforeEach(() => {
  [told, fetched, refused] = [[], [], false];
  vi.stubGlobal("AudioContext", class {
    state = "running";
    audioWorklet = { addModule: async () => undefined };
    resume = async () => undefined;
  });
  vi.stubGlobal("AudioWorkletNode", class {
    port = (port = { postMessage: (message) => told.push(message) });
    connect = () => undefined;
  });
  vi.stubGlobal("requestAnimationFrame", () => 0);
  vi.stubGlobal("cancelAnimationFrame", () => undefined);
  vi.stubGlobal("fetch", async (address: string) => {
    fetched.push(address);
    return refused ? new Response("", { status: 500 }) : new Response(wav(8));
  });
  vi.spyOn(client, "GET").mockReset().mockImplementation((async (path: string, { params }: { params: { query: { at?: number } } }) => ({
    data: path.endsWith("/blocks") ? blocksFrom(plan.length, params.query.at ?? 0) : planOf(0, [0, 1], [3, 20]),
    response: new Response(),
  })) as never);
  desk().set({ playing: false, waiting: false, speed: 1, backwards: 0, looping: false, said: null });
  plan = planOf(1, [0, 5], [7, 60]);
  player = new Player();
  player.use("e", "edited", plan);
});

const starts = () => told.flatMap((message) => (message.kind === "start" ? [message] : []));
const blocks = () => told.flatMap((message) => (message.kind === "block" ? [message] : []));
const lastStart = () => starts().at(-1) ?? { run: 0, at: 0, speed: 0, length: 0 };
const report = (at: number, state: FromPlayer["state"] = "playing") => port.onmessage?.({ data: { run: lastStart().run, at, state } });
const started = (times: number) => vi.waitFor(() => expect(starts()).toHaveLength(times));
const fed = (least: number) => vi.waitFor(() => expect(blocks().length).toBeGreaterThanOrEqual(least));

describe("playing", () => {
  test("begins at the playhead, counted in the programme, and brings the sound from there", async () => {
    player.playFrom(seconds(8));
    await started(1);
    // Two seconds are struck before it, and the splice adds its crossfade of 10 ms.
    expect(lastStart()).toMatchObject({ at: seconds(6.01), speed: 1, length: plan.length });
    await fed(3);
    expect(blocks().map((block) => block.at).slice(0, 3)).toEqual([6, 8, 10].map(seconds));
    expect([blocks()[0]?.left[0], blocks()[0]?.right[0]]).toEqual([1, -1]);
    expect(desk()).toMatchObject({ playing: true, waiting: true });
    report(seconds(6.1));
    expect(desk().waiting).toBe(false);
  });

  test("brings no more than is heard soon", async () => {
    player.playFrom(0);
    await fed(4);
    await new Promise((resolve) => setTimeout(resolve, 50));
    const ahead = (blocks().at(-1)?.at ?? 0) + BLOCK;
    expect(ahead).toBeLessThanOrEqual(seconds(20));
    report(seconds(10));
    await vi.waitFor(() => expect((blocks().at(-1)?.at ?? 0) + BLOCK).toBeGreaterThan(ahead), 2000);
    player.pause();
  });

  test("at the end begins from the start", async () => {
    player.playFrom(seconds(60) - 10);
    await started(1);
    expect(lastStart().at).toBe(0);
  });

  test("stops where it was heard last, and what comes late from the audio thread changes nothing", async () => {
    player.playFrom(0);
    await started(1);
    report(seconds(3));
    player.pause();
    expect(told.at(-1)).toEqual({ kind: "stop" });
    const stopped = playhead();
    expect(stopped).toBeGreaterThanOrEqual(seconds(3));
    report(seconds(4));
    expect([desk().playing, playhead()]).toEqual([false, stopped]);
  });

  test("sound that cannot be fetched is said, and asked for anew the next time", async () => {
    refused = true;
    player.playFrom(0);
    await vi.waitFor(() => expect(desk().troubles).toHaveLength(1));
    expect(desk().playing).toBe(false);
    refused = false;
    player.playFrom(0);
    await fed(1);
  });

  test("the same sound is fetched once", async () => {
    player.playFrom(0);
    await fed(3);
    player.seek(0);
    await started(2);
    await fed(6);
    expect(new Set(fetched).size).toBe(fetched.length);
    player.pause();
  });
});

describe("an edit while it plays", () => {
  test("goes on from the same word", async () => {
    player.playFrom(seconds(8));
    await started(1);
    report(seconds(6.01));
    run(seconds(8));
    player.use("e", "edited", planOf(2, [0, 3], [7, 60]));
    await started(2);
    expect(lastStart().at).toBe(seconds(4.01));
  });

  test("keeps the end of a stretch that is played by itself", async () => {
    player.playBetween(seconds(8), seconds(10), seconds(8));
    await started(1);
    report(seconds(6.5));
    run(seconds(8.5));
    plan = planOf(2, [0, 3], [7, 60]);
    player.use("e", "edited", plan);
    await started(2);
    report(seconds(6.02));
    expect([desk().playing, playhead()]).toEqual([false, seconds(8)]);
  });
});

describe("a stretch by itself", () => {
  test("returns to where one was", async () => {
    put(seconds(1));
    player.playBetween(seconds(8), seconds(9));
    await started(1);
    report(seconds(7.02));
    expect([desk().playing, playhead()]).toEqual([false, seconds(1)]);
  });

  test("begins again as long as that is wanted", async () => {
    desk().set({ looping: true });
    player.playBetween(seconds(8), seconds(9));
    await started(1);
    report(seconds(7.02));
    await started(2);
    expect(lastStart().at).toBe(seconds(6.01));
    desk().set({ looping: false });
    report(seconds(7.02));
    expect(desk().playing).toBe(false);
  });

  test("around a splice is as long before it as after it", async () => {
    player.playAround(seconds(7), seconds(2));
    await started(1);
    expect(lastStart().at).toBe(seconds(3.01));
  });
});

test("trying how it would be plays another programme and leaves this one as it is", async () => {
  await player.tryWithout([[seconds(1), seconds(3)]]);
  await started(1);
  expect(lastStart().length).toBe(planOf(0, [0, 1], [3, 20]).length);
  expect(vi.mocked(client.GET).mock.calls[0]?.[1]).toMatchObject({ params: { query: { without: `${seconds(1)}-${seconds(3)}` } } });
  player.pause();
  player.playFrom(0);
  await started(2);
  expect(lastStart().length).toBe(plan.length);
});

test("backwards, blocks come in the other order", async () => {
  put(seconds(4.5));
  await player.playBackwards(2);
  expect(lastStart()).toMatchObject({ at: seconds(4.5), speed: -2 });
  await fed(3);
  expect(blocks().map((block) => block.at).slice(0, 3)).toEqual([4, 2, 0].map(seconds));
});

test("another speed is told at once", async () => {
  player.playFrom(0);
  await started(1);
  player.setSpeed(1.5);
  expect(told.at(-1)).toEqual({ kind: "speed", speed: 1.5 });
  expect(desk().speed).toBe(1.5);
});
