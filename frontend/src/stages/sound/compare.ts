/**
 * Comparing a stretch with and without something of a chain: both play at once, in a loop and equally loud, and one of them is
 * heard. So one can go from the one to the other in the middle of a word.
 */
import { create } from "zustand";
import { client, got } from "../../api/client";
import { RATE } from "../../api/time";
import { failed } from "../../desk/desk";
import { player } from "../../player/player";

export type Part = "with" | "without" | "left";

/** What is compared: a track's chain, or one processor of it by its number; -1 is all of it. */
export interface Subject {
  edition: string;
  track: string;
  without: number;
  begin: number;
  end: number;
  /** What the chain is now: another one is another sound. */
  state: string;
}

interface Compared {
  /** What would be compared by key: the strip that is shown says so. */
  offered: Subject | null;
  subject: Subject | null;
  part: Part;
  busy: boolean;
  offer: (subject: Subject | null) => void;
  hear: (subject: Subject, part: Part) => Promise<void>;
  swap: () => void;
  stop: () => void;
}

const PARTS: readonly Part[] = ["with", "without", "left"];

let audio: AudioContext | undefined;
let playing: { source: AudioBufferSourceNode; gain: GainNode; part: Part }[] = [];
let run = 0;

const nameOf = ({ edition, track, without, begin, end, state }: Subject) => [edition, track, without, begin, end, state].join();

async function fetched(subject: Subject, part: Part, context: AudioContext): Promise<AudioBuffer> {
  const { edition, track, without, begin, end } = subject;
  const params = { path: { edition_id: edition }, query: { track, begin, end, without, part } };
  return context.decodeAudioData((await got(client.GET("/api/editions/{edition_id}/tried", { params, parseAs: "arrayBuffer" }))) as ArrayBuffer);
}

const silence = () => {
  for (const { source, gain } of playing) {
    source.stop();
    gain.disconnect();
  }
  playing = [];
};

export const useCompared = create<Compared>((set, get) => ({
  offered: null,
  subject: null,
  part: "with",
  busy: false,
  offer: (offered) => set({ offered }),
  hear: async (subject, part) => {
    const known = get().subject;
    if (known && nameOf(known) === nameOf(subject) && playing.some((each) => each.part === part)) {
      for (const each of playing) each.gain.gain.setTargetAtTime(each.part === part ? 1 : 0, audio?.currentTime ?? 0, 0.008);
      return set({ part });
    }
    const mine = ++run;
    player.pause();
    set({ subject, part, busy: true });
    try {
      audio ??= new AudioContext({ sampleRate: RATE });
      const context = audio;
      await context.resume();
      const wanted = part === "left" ? PARTS : PARTS.slice(0, 2);
      const buffers = await Promise.all(wanted.map((each) => fetched(subject, each, context)));
      if (mine !== run) return;
      silence();
      const at = context.currentTime + 0.03;
      playing = buffers.map((buffer, index) => {
        const source = new AudioBufferSourceNode(context, { buffer, loop: true });
        const gain = new GainNode(context, { gain: wanted[index] === part ? 1 : 0 });
        source.connect(gain).connect(context.destination);
        source.start(at);
        return { source, gain, part: wanted[index] ?? "with" };
      });
      set({ busy: false });
    } catch (error) {
      if (mine !== run) return;
      get().stop();
      failed(error);
    }
  },
  swap: () => {
    const { subject, offered, part, hear } = get();
    const next = offered ?? subject;
    if (next) void hear(next, subject && nameOf(subject) === nameOf(next) && part === "with" ? "without" : "with");
  },
  stop: () => {
    run++;
    silence();
    set({ subject: null, busy: false });
  },
}));

export const compared = useCompared.getState;
