/** A line said again, heard in its place before it is taken: one after the other, by one key. */
import { create } from "zustand";
import { client, got } from "../../api/client";
import type { SchemaCandidateOut, SchemaPickupOut } from "../../api/schema";
import { failed } from "../../desk/desk";
import { player } from "../../player/player";

export type Candidate = SchemaCandidateOut;
export type Line = SchemaPickupOut;

/** The words that are to be said again, in an edition. */
export interface Spot {
  edition: string;
  begin: number;
  end: number;
}

/** What can be heard in the spot: a line that was made, or the same words elsewhere, of which one is made first. */
export interface Offer {
  key: string;
  line?: Line | undefined;
  candidate?: Candidate | undefined;
}

interface Again {
  spot: Spot | null;
  offers: readonly Offer[];
  /** What is heard, or waited for until it is made. */
  key: string;
  state: "still" | "made to hear" | "made to use" | "playing";
  /** What can be heard now, and how a line takes its place. */
  offer: (spot: Spot | null, offers: readonly Offer[], take?: (line: Line) => void) => void;
  hear: (offer: Offer) => Promise<void>;
  use: (offer: Offer) => Promise<void>;
  next: () => void;
  stop: () => void;
}

let sound: HTMLAudioElement | undefined;
let taken: (line: Line) => void = () => {};

export const keyOf = ({ recording, start }: Candidate) => `${recording} ${start}`;

/** The line that was borrowed from a place, where one was. */
export const lineOf = (lines: readonly Line[], candidate: Candidate) => lines.find((line) => line.how === "borrowed" && line.source_of === candidate.recording && line.source_at === candidate.start);

/** Have a line made of words said elsewhere. */
const borrow = ({ edition, begin, end }: Spot, { recording, start, end: stop, words }: Candidate) =>
  got(client.POST("/api/editions/{edition_id}/pickups", { params: { path: { edition_id: edition } }, body: { begin, end, how: "borrowed", text: words, recording, source_start: start, source_end: stop } }));

async function play({ edition, begin, end }: Spot, line: Line) {
  player.pause();
  sound ??= new Audio();
  sound.src = `/api/editions/${edition}/pickups/${line.recording}/tried?begin=${begin}&end=${end}`;
  sound.onended = () => useAgain.setState({ state: "still" });
  await sound.play();
}

export const useAgain = create<Again>((set, get) => {
  /** Do something with a line; one that is not made yet is made first, and comes back as an offer. */
  const act = async (offer: Offer, state: "made to hear" | "made to use") => {
    const { spot } = get();
    if (!spot) return;
    sound?.pause();
    set({ key: offer.key, state });
    try {
      if (!offer.line) return void (offer.candidate && (await borrow(spot, offer.candidate)));
      set({ state: state === "made to hear" ? "playing" : "still" });
      if (state === "made to use") return taken(offer.line);
      await play(spot, offer.line);
    } catch (error) {
      set({ state: "still" });
      failed(error);
    }
  };
  return {
    spot: null,
    offers: [],
    key: "",
    state: "still",
    offer: (spot, offers, take = () => {}) => {
      taken = take;
      set({ spot, offers });
      const { key, state } = get();
      const made = offers.find((each) => each.key === key && each.line);
      if (made && (state === "made to hear" || state === "made to use")) void act(made, state);
    },
    hear: (offer) => act(offer, "made to hear"),
    use: (offer) => act(offer, "made to use"),
    next: () => {
      const { offers, key, hear } = get();
      const next = offers[(offers.findIndex((each) => each.key === key) + 1) % offers.length];
      if (next) void hear(next);
    },
    stop: () => {
      sound?.pause();
      set({ state: "still" });
    },
  };
});
