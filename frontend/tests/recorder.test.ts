/** Recording in the browser, with devices and a server that are made up here. */
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { client } from "../src/api/client";
import { close, open, record, stop, useRecorder } from "../src/stages/gather/recorder";

const state = useRecorder.getState;

let level: number;
let frames: (() => void)[];
let stored: { address: string; size: number }[];
let answers: (number | null)[];
let asked: MediaStreamConstraints[];

class Track {
  stopped = false;
  stop() {
    this.stopped = true;
  }
}

class Stream {
  readonly tracks = [new Track()];
  getTracks = () => this.tracks;
  getVideoTracks = () => this.tracks.slice(1);
  addTrack = (track: Track) => void this.tracks.push(track);
}

class Recorder {
  static last: Recorder | undefined;
  ondataavailable: (event: { data: { size: number } }) => void = () => undefined;
  onstop: () => void = () => undefined;
  every = 0;
  constructor(readonly stream: Stream) {
    Recorder.last = this;
  }
  start(every: number) {
    this.every = every;
  }
  stop() {
    this.onstop();
  }
}

const chunk = (size: number) => Recorder.last?.ondataavailable({ data: { size } });
const post = vi.spyOn(client, "POST");
let devices: () => Promise<Stream>;

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["setTimeout"] });
  [level, frames, stored, answers, asked] = [0, [], [], [], []];
  devices = async () => new Stream();
  vi.stubGlobal("navigator", {
    mediaDevices: {
      getUserMedia: (wanted: MediaStreamConstraints) => {
        asked.push(wanted);
        return devices();
      },
      getDisplayMedia: async () => {
        const screen = new Stream();
        screen.addTrack(new Track());
        return screen;
      },
    },
  });
  vi.stubGlobal("AudioContext", class {
    createAnalyser = () => ({ fftSize: 4, getFloatTimeDomainData: (samples: Float32Array) => samples.fill(-level) });
    createMediaStreamSource = () => ({ connect: () => undefined });
    close = async () => undefined;
  });
  vi.stubGlobal("MediaRecorder", Recorder);
  vi.stubGlobal("requestAnimationFrame", (step: () => void) => frames.push(step));
  vi.stubGlobal("cancelAnimationFrame", () => undefined);
  vi.stubGlobal("fetch", async (address: string, { body }: { body: { size: number } }) => {
    const status = answers.length ? answers.shift() : 204;
    if (status === null) throw new TypeError("Failed to fetch");
    if (status === 204) stored.push({ address, size: body.size });
    return new Response(null, { status: status ?? 204 });
  });
  post.mockReset().mockResolvedValue({ data: { id: "t" }, response: new Response() } as never);
});

afterEach(() => {
  useRecorder.setState({ state: "idle", stream: null, take: "", trouble: "", level: 0, clipped: false, seconds: 0 });
  vi.useRealTimers();
});

const nextFrame = (loudness: number) => {
  level = loudness;
  frames.pop()?.();
};

describe("opening a microphone", () => {
  test("asks for its sound as it is, and shows the level", async () => {
    await open("mic 2", "none");
    expect(asked[0]).toMatchObject({ audio: { deviceId: { exact: "mic 2" }, noiseSuppression: false, autoGainControl: false }, video: false });
    nextFrame(0.25);
    expect(state()).toMatchObject({ state: "ready", level: 0.25, clipped: false });
  });

  test("says that it was too loud for a while after it was", async () => {
    const now = vi.spyOn(performance, "now").mockReturnValue(1000);
    await open("", "none");
    nextFrame(0.99);
    expect(state().clipped).toBe(true);
    now.mockReturnValue(3000);
    nextFrame(0.1);
    expect(state().clipped).toBe(true);
    now.mockReturnValue(3600);
    nextFrame(0.1);
    expect(state().clipped).toBe(false);
    now.mockRestore();
  });

  test("with the screen has both", async () => {
    await open("", "screen");
    expect(state().stream?.getTracks()).toHaveLength(2);
  });

  test.each([
    ["NotAllowedError", "not allowed"],
    ["NotFoundError", "no microphone here"],
    ["NotReadableError", "in use by another program"],
    ["SomethingElse", "could not be opened"],
  ])("that fails by %s says what to do", async (name, told) => {
    devices = () => Promise.reject(new DOMException("", name));
    await open("", "none");
    expect(state().trouble).toContain(told);
    expect(state().state).toBe("idle");
  });

  test("closed again lets go of it", async () => {
    await open("", "none");
    const tracks = state().stream?.getTracks() as unknown as Track[];
    close();
    expect(tracks.every((track) => track.stopped)).toBe(true);
    expect(state()).toMatchObject({ state: "idle", stream: null });
  });
});

describe("a take", () => {
  beforeEach(async () => {
    await open("", "none");
    await record("ep");
  });

  test("goes to the server second by second, in order", async () => {
    expect(Recorder.last?.every).toBe(1000);
    [30, 20, 10].forEach(chunk);
    await vi.waitFor(() => expect(stored).toHaveLength(3));
    expect(stored).toEqual([30, 20, 10].map((size, number) => ({ address: `/api/takes/t/chunks/${number}`, size })));
  });

  test("is not let go of while it runs", () => {
    close();
    expect(state().state).toBe("recording");
  });

  test("tries a chunk again before the next one, until the server has it", async () => {
    answers = [null, 503, 204, 204];
    [30, 20].forEach(chunk);
    await vi.advanceTimersByTimeAsync(1100);
    expect(stored.map((each) => each.size)).toEqual([30, 20]);
  });

  test("becomes a recording once its last chunk is stored", async () => {
    answers = [503, 204];
    chunk(30);
    stop();
    expect(state().state).toBe("storing");
    expect(post).toHaveBeenCalledTimes(1);
    await vi.advanceTimersByTimeAsync(600);
    expect(stored).toHaveLength(1);
    expect(post).toHaveBeenLastCalledWith("/api/takes/{take_id}/finish", { params: { path: { take_id: "t" } } });
    expect(state()).toMatchObject({ state: "ready", take: "" });
  });

  test("that cannot be stored any further says that what was stored is kept", async () => {
    answers = Array<null>(30).fill(null);
    chunk(30);
    stop();
    await vi.advanceTimersByTimeAsync(30_000);
    expect(state().trouble).toContain("What was stored until then is kept");
    expect(state().state).toBe("ready");
  });

  test("an empty chunk is none", async () => {
    [0, 10].forEach(chunk);
    await vi.waitFor(() => expect(stored).toHaveLength(1));
    expect(stored[0]?.address).toBe("/api/takes/t/chunks/0");
  });
});

test("without anything opened, nothing is recorded", async () => {
  await record("ep");
  expect(post).not.toHaveBeenCalled();
});

test("a take that the server refuses is said", async () => {
  await open("", "none");
  post.mockResolvedValue({ error: { detail: "The disk is full.", code: "disk-full" }, response: new Response() } as never);
  await record("ep");
  expect(state()).toMatchObject({ trouble: "The disk is full.", state: "ready" });
});
