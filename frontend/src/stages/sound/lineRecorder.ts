/** Recording a line over its spot: what comes before is played, then the microphone is open until it is stopped. */
import { create } from "zustand";
import { RATE } from "../../api/time";
import { keys } from "../../api/queries";
import { asItIs, client, got, queryClient } from "../../api/client";
import { desk, useDesk } from "../../desk/desk";
import { player } from "../../player/player";
import { troubleOf } from "../../ui/microphone";
import type { Spot } from "./again";

/** So much of what comes before is heard, in ticks. */
const LEAD_IN = 4 * RATE;

interface LineRecorder {
  state: "still" | "leading in" | "recording" | "storing";
  trouble: string;
  begin: (spot: Spot, text: string) => Promise<void>;
  stop: () => void;
}

let stream: MediaStream | undefined;
let recorder: MediaRecorder | undefined;
let leave = () => {};

const close = () => {
  stream?.getTracks().forEach((track) => track.stop());
  stream = undefined;
};

export const useLineRecorder = create<LineRecorder>((set, get) => ({
  state: "still",
  trouble: "",
  begin: async (spot, text) => {
    set({ trouble: "" });
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } });
    } catch (error) {
      return set({ trouble: troubleOf(error) });
    }
    set({ state: "leading in" });
    player.playBetween(spot.begin - LEAD_IN, spot.begin, spot.begin);
    // It ends by itself where the words begin; then it is the speaker's turn.
    leave = useDesk.subscribe(({ playing }, before) => {
      if (playing || !before.playing) return;
      leave();
      if (get().state === "leading in") record(spot, text);
    });
    if (!desk().playing && spot.begin < RATE / 10) {
      leave();
      record(spot, text);
    }
  },
  stop: () => {
    leave();
    if (get().state === "recording") return recorder?.stop();
    player.pause();
    close();
    set({ state: "still" });
  },
}));

function record(spot: Spot, text: string) {
  if (!stream) return;
  const set = useLineRecorder.setState;
  const parts: Blob[] = [];
  recorder = new MediaRecorder(stream);
  recorder.ondataavailable = ({ data }) => parts.push(data);
  recorder.onstop = () => {
    close();
    set({ state: "storing" });
    void store(spot, text, new Blob(parts)).then(
      () => set({ state: "still" }),
      (error: unknown) => set({ state: "still", trouble: error instanceof Error ? error.message : String(error) }),
    );
  };
  recorder.start();
  set({ state: "recording" });
}

async function store({ edition, begin, end }: Spot, text: string, take: Blob) {
  await got(client.POST("/api/editions/{edition_id}/pickups/recorded", { params: { path: { edition_id: edition }, query: { begin, end, text } }, ...asItIs(take) }));
  void queryClient.invalidateQueries({ queryKey: keys.head(edition) });
}
