/** What is open in this window and how it is looked at and heard; nothing of it is stored. Where one is: `place.ts`. */
import { create } from "zustand";
import type { SchemaEpisodeOut, SchemaSelectOut } from "../api/schema";

export type Mode = "edited" | "recorded";
export type Magnification = "prose" | "score" | "fine";

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
  /** Lanes of the page that somebody showed or hid by hand, whatever the stage says. */
  lanes: Readonly<Record<string, boolean>>;
  /** Whether times are told by the clocks of the recordings instead of by that of the programme. */
  recordingTimes: boolean;
  /** Whether Jaskel has accounts, and the id of whose this window is. */
  team: boolean;
  me: string;
  /** What whoever sits here may do with the show that is open. */
  rights: readonly SchemaEpisodeOut["may"][number][];
  /** Seconds on a line in Fine. */
  scale: number;
  /** Whether edges that are dragged stop at word edges and quiet places. */
  snapping: boolean;
  looping: boolean;
  /** Whether only what is marked as good is played. */
  onlySelects: boolean;
  /** The colour of the selects that are shown; all where it is empty. */
  colour: SchemaSelectOut["colour"] | "";
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
  /** The laid time of the rest whose box is open, null where none is. */
  rest: number | null;
  /** Whether the selected words are being retyped. */
  retyping: boolean;
  /** What was done last. */
  said: Said | null;
  /** What went wrong, oldest first: it stays until it is dismissed. */
  troubles: readonly Trouble[];
  set: (change: Partial<Omit<Desk, "set" | "say">>) => void;
  say: (text: string, more?: Omit<Said, "text" | "number">) => void;
  warn: (text: string) => void;
  dismiss: (trouble: Trouble) => void;
}

/** What a person by themself may do. */
export const EVERYTHING: SchemaEpisodeOut["may"] = ["listen", "note", "read", "words", "captions", "export text", "export", "edit", "own"];

let sayings = 0;
const TROUBLES = 3;

export const useDesk = create<Desk>((set) => ({
  stage: "",
  mode: "edited",
  magnification: "score",
  showStruck: true,
  recordingTimes: false,
  lanes: {},
  team: false,
  me: "",
  rights: EVERYTHING,
  scale: 3,
  snapping: true,
  looping: false,
  onlySelects: false,
  colour: "",
  edition: null,
  panel: null,
  draft: "",
  speed: 1,
  playing: false,
  backwards: 0,
  waiting: false,
  rest: null,
  retyping: false,
  said: null,
  troubles: [],
  set: (change) => set(change),
  say: (text, more) => set({ said: { text, ...more, number: ++sayings } }),
  // The same trouble twice is one; more than a few at once are not read.
  warn: (text) => set(({ troubles }) => ({ troubles: [...troubles.filter((each) => each.text !== text), { text, number: ++sayings }].slice(-TROUBLES) })),
  dismiss: (trouble) => set(({ troubles }) => ({ troubles: troubles.filter((each) => each !== trouble) })),
}));

export const desk = useDesk.getState;

/** Say in words what went wrong. */
export const failed = (error: unknown) => desk().warn(error instanceof Error ? error.message : String(error));
