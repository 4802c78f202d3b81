/** Recording in the browser: what is captured goes to the server second by second, so that little is lost with the tab. */
import { create } from "zustand";
import { client, got, queryClient } from "../../api/client";
import { keys } from "../../api/queries";
import { failed } from "../../desk/desk";
import { troubleOf } from "../../ui/microphone";

const CHUNK_MS = 1000;
const TRIES = 20;
const CLIPPING = 0.985;
const CLIPPING_SHOWN_MS = 2500;

export type Source = "none" | "camera" | "screen";

interface Recording {
  state: "idle" | "ready" | "recording" | "storing";
  /** Loudest sample of the last moment, 0 to 1. */
  level: number;
  clipped: boolean;
  seconds: number;
  trouble: string;
  stream: MediaStream | null;
  /** Take that is being recorded in this tab. */
  take: string;
}

export const useRecorder = create<Recording>(() => ({ state: "idle", level: 0, clipped: false, seconds: 0, trouble: "", stream: null, take: "" }));
const set = useRecorder.setState;

let recorder: MediaRecorder | undefined;
let meter = 0;

/** Open microphone and picture, and show the level; nothing is recorded yet. */
export async function open(microphone: string, picture: Source) {
  close();
  try {
    const audio: MediaTrackConstraints = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
    if (microphone) audio.deviceId = { exact: microphone };
    const stream = await navigator.mediaDevices.getUserMedia({ audio, video: picture === "camera" });
    if (picture === "screen") {
      const screen = await navigator.mediaDevices.getDisplayMedia({ video: true });
      screen.getVideoTracks().forEach((track) => stream.addTrack(track));
    }
    set({ stream, state: "ready", trouble: "" });
    watch(stream);
  } catch (error) {
    set({ trouble: troubleOf(error) });
  }
}

export function close() {
  if (useRecorder.getState().state === "recording") return;
  cancelAnimationFrame(meter);
  useRecorder.getState().stream?.getTracks().forEach((track) => track.stop());
  set({ stream: null, state: "idle", level: 0, clipped: false });
}

function watch(stream: MediaStream) {
  const audio = new AudioContext();
  const analyser = audio.createAnalyser();
  audio.createMediaStreamSource(stream).connect(analyser);
  const samples = new Float32Array(analyser.fftSize);
  let clippedAt = -Infinity;
  const step = () => {
    if (useRecorder.getState().stream !== stream) return void audio.close();
    analyser.getFloatTimeDomainData(samples);
    const level = samples.reduce((most, sample) => Math.max(most, Math.abs(sample)), 0);
    if (level >= CLIPPING) clippedAt = performance.now();
    set({ level, clipped: performance.now() - clippedAt < CLIPPING_SHOWN_MS });
    meter = requestAnimationFrame(step);
  };
  step();
}

/** Begin a take. */
export async function record(episodeId: string) {
  const { stream } = useRecorder.getState();
  if (!stream) return;
  try {
    const take = await got(client.POST("/api/episodes/{episode_id}/takes", { params: { path: { episode_id: episodeId } }, body: { name: "" } }));
    const begun = performance.now();
    let number = 0;
    // One chunk after the other; each is tried until the server has it.
    let line: Promise<void> = Promise.resolve();
    recorder = new MediaRecorder(stream);
    recorder.ondataavailable = ({ data }) => {
      set({ seconds: (performance.now() - begun) / 1000 });
      if (!data.size) return;
      const mine = number++;
      line = line.then(() => store(take.id, mine, data));
    };
    recorder.onstop = () => {
      set({ state: "storing" });
      void line.then(() => finish(episodeId, take.id)).catch((error: unknown) => lost(episodeId, error));
    };
    recorder.start(CHUNK_MS);
    set({ state: "recording", seconds: 0, take: take.id, trouble: "" });
  } catch (error) {
    set({ trouble: error instanceof Error ? error.message : String(error) });
  }
}

async function store(take: string, number: number, data: Blob, tries = 0): Promise<void> {
  const answer = await fetch(`/api/takes/${take}/chunks/${number}`, { method: "PUT", body: data }).catch(() => null);
  if (answer?.ok) return;
  if (tries >= TRIES) throw new Error("The take could not be stored any further. What was stored until then is kept.");
  await new Promise((resolve) => setTimeout(resolve, 500));
  return store(take, number, data, tries + 1);
}

export const stop = () => recorder?.stop();

/** Make a recording of a take, also of one that broke off. */
export async function finish(episodeId: string, take_id: string) {
  try {
    await got(client.POST("/api/takes/{take_id}/finish", { params: { path: { take_id } } }));
  } catch (error) {
    failed(error);
  }
  set((known) => ({ state: known.stream ? "ready" : "idle", take: "" }));
  void queryClient.invalidateQueries({ queryKey: keys.episode(episodeId) });
}

function lost(episodeId: string, error: unknown) {
  set((known) => ({ state: known.stream ? "ready" : "idle", take: "", trouble: error instanceof Error ? error.message : String(error) }));
  void queryClient.invalidateQueries({ queryKey: keys.episode(episodeId) });
}
