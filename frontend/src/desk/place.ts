/**
 * Where one is in an edition: one value with one owner. Everything here is laid time, so it stays the same word while words are
 * struck and put back. What a key acts on is the selection, or else the word at the playhead; a finding that is being judged is
 * the selection, too.
 */
import { create } from "zustand";

/** A stretch of laid time; `anchor` is where selecting began, `focus` where it is now. */
export interface Selection {
  anchor: number;
  focus: number;
  /** Exactly from the one to the other; else both are places of tokens, and whole tokens are meant. */
  exact?: boolean;
  /** Only this track of a session is meant. */
  track?: string;
  /** What is selected as such, by its id: a finding that is being judged. */
  of?: string;
}

interface Place {
  /** Where the playhead was last put or came to rest: it stays while that runs. */
  cursor: number;
  selection: Selection | null;
  /** Where a selection was begun by key, to be ended elsewhere. */
  started: number | null;
}

export const usePlace = create<Place>(() => ({ cursor: 0, selection: null, started: null }));

export const here = usePlace.getState;

export const select = (selection: Selection | null) => usePlace.setState({ selection });

/** Hold on to one end of a selection, to go to the other. */
export const begin = (started: number | null) => usePlace.setState({ started });

// The playhead moves with every frame: it is in no store, so that nothing is drawn anew for it but what shows it.
let running = 0;
const watchers = new Set<(laid: number) => void>();

export const playhead = () => running;

/** Be told of the playhead wherever it goes, beginning with where it is, until the returned function is called. */
export function watchPlayhead(watcher: (laid: number) => void): () => void {
  watchers.add(watcher);
  watcher(running);
  return () => void watchers.delete(watcher);
}

/** The playhead goes on by itself. */
export function run(laid: number) {
  running = laid;
  for (const watcher of watchers) watcher(laid);
}

/** Put the playhead somewhere, or let it come to rest there. */
export function put(laid: number) {
  usePlace.setState({ cursor: laid });
  run(laid);
}

/** Another edition begins with nothing selected. */
export function arrive(laid = 0) {
  usePlace.setState({ selection: null, started: null });
  put(laid);
}
