/** What is being looked at and heard in this window: nothing of it is stored. */
import { create } from "zustand";

export type Mode = "edited" | "recorded";
export type Magnification = "prose" | "score" | "fine";

/** A stretch of laid time; `anchor` is where selecting began, `focus` where it is now. */
export interface Selection {
  anchor: number;
  focus: number;
  /** Exactly from the one to the other; else both are places of tokens, and whole tokens are meant. */
  exact?: boolean;
  /** Only this track of a session is meant. */
  track?: string;
}

export interface Said {
  text: string;
  undo?: boolean;
  /** Something to be done besides, in a word or two. */
  also?: { text: string; run: () => void };
  number: number;
}

export interface Trouble {
  text: string;
  number: number;
}

interface Desk {
  /** The id of the stage that is open. */
  stage: string;
  mode: Mode;
  magnification: Magnification;
  showStruck: boolean;
  /** Seconds on a line in Fine. */
  scale: number;
  /** Whether edges that are dragged stop at word edges and quiet places. */
  snapping: boolean;
  looping: boolean;
  /** Which edition of the episode is open; null for its first. */
  edition: string | null;
  /** The id of what is open over the page. */
  panel: string | null;
  /** What a new note begins with. */
  draft: string;
  speed: number;
  playing: boolean;
  /** How many times as fast it is played backwards; 0 while it plays forwards. */
  backwards: number;
  waiting: boolean;
  /** Laid time. */
  playhead: number;
  /** Where the playhead was last put or came to rest: it stays while that runs. */
  cursor: number;
  selection: Selection | null;
  /** Where a selection was begun by key, to be ended elsewhere. */
  started: number | null;
  /** Whether the selected words are being retyped. */
  retyping: boolean;
  /** What was done last. */
  said: Said | null;
  /** What went wrong, oldest first: it stays until it is dismissed. */
  troubles: readonly Trouble[];
  /** Change what is looked at; where the playhead is put, the cursor is too. */
  set: (change: Partial<Omit<Desk, "set" | "run" | "say" | "cursor">>) => void;
  /** The playhead goes on by itself. */
  run: (playhead: number) => void;
  say: (text: string, more?: Omit<Said, "text" | "number">) => void;
  warn: (text: string) => void;
  dismiss: (trouble: Trouble) => void;
}

let sayings = 0;
const TROUBLES = 3;

const kept = (episode: string) => `jaskel.stage.${episode}`;

/** The stage in which an episode was left in this tab, so that a reload keeps it. */
export const stageOf = (episode: string) => globalThis.sessionStorage?.getItem(kept(episode)) ?? undefined;

export const keepStage = (episode: string, stage: string) => globalThis.sessionStorage?.setItem(kept(episode), stage);

export const useDesk = create<Desk>((set) => ({
  stage: "",
  mode: "edited",
  magnification: "score",
  showStruck: true,
  scale: 3,
  snapping: true,
  looping: false,
  edition: null,
  panel: null,
  draft: "",
  speed: 1,
  playing: false,
  backwards: 0,
  waiting: false,
  playhead: 0,
  cursor: 0,
  selection: null,
  started: null,
  retyping: false,
  said: null,
  troubles: [],
  set: (change) => set(change.playhead === undefined ? change : { ...change, cursor: change.playhead }),
  run: (playhead) => set({ playhead }),
  say: (text, more) => set({ said: { text, ...more, number: ++sayings } }),
  // The same trouble twice is one; more than a few at once are not read.
  warn: (text) => set(({ troubles }) => ({ troubles: [...troubles.filter((each) => each.text !== text), { text, number: ++sayings }].slice(-TROUBLES) })),
  dismiss: (trouble) => set(({ troubles }) => ({ troubles: troubles.filter((each) => each !== trouble) })),
}));

export const desk = useDesk.getState;

/** Say in words what went wrong. */
export const failed = (error: unknown) => desk().warn(error instanceof Error ? error.message : String(error));
