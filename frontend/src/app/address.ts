/** Edition, stage and place are in the address of an episode: a reload, a bookmark or a link opens it where one was. */
import { RATE } from "../api/time";
import { desk, useDesk } from "../desk/desk";
import { arrive, here, usePlace } from "../desk/place";

/** How long one stands still before the address says so. */
const SETTLED = 250;

/** In seconds, rounded up to the millisecond: rounded down, it would be the word before. */
const written = (laid: number) => String(Math.ceil((laid / RATE) * 1000) / 1000);

interface Address {
  edition: string | null;
  stage: string | null;
  /** Laid time. */
  at: number;
  /** Where a search found something: the recording, and the place in it. */
  found: { recording: string; at: number } | null;
}

export function read(search: string): Address {
  const query = new URLSearchParams(search);
  const at = Number(query.get("at"));
  const recording = query.get("recording");
  return {
    edition: query.get("edition"),
    stage: query.get("stage"),
    at: Number.isFinite(at) && at > 0 ? Math.round(at * RATE) : 0,
    found: recording ? { recording, at: Math.max(0, Math.round(Number(query.get("from")) || 0)) } : null,
  };
}

/** Let the address say where one is: what a search found is there now. */
export function write() {
  const { edition, stage } = desk();
  const { cursor } = here();
  const query = new URLSearchParams({ ...(edition && { edition }), ...(stage && { stage }), ...(cursor > 0 && { at: written(cursor) }) }).toString();
  const wanted = window.location.pathname + (query && `?${query}`);
  if (wanted !== window.location.pathname + window.location.search) window.history.replaceState(window.history.state, "", wanted);
}

/** The same, but for a word that a search found and that is still looked for. */
function keep() {
  if (!read(window.location.search).found) write();
}

/** Go where the address says, and keep it true until the returned function is called. */
export function follow(begin: { edition: string | null; stage: string }): () => void {
  const address = read(window.location.search);
  desk().set({ edition: address.edition ?? begin.edition, stage: address.stage ?? begin.stage, retyping: false, said: null, panel: null, troubles: [] });
  arrive(address.at);
  let waiting = 0;
  const later = () => {
    window.clearTimeout(waiting);
    waiting = window.setTimeout(keep, SETTLED);
  };
  const leave = [
    usePlace.subscribe((now, before) => now.cursor !== before.cursor && later()),
    useDesk.subscribe((now, before) => (now.stage !== before.stage || now.edition !== before.edition) && later()),
  ];
  // Left at once, by a reload or for another page, it is still written.
  window.addEventListener("pagehide", keep);
  later();
  return () => {
    window.clearTimeout(waiting);
    window.removeEventListener("pagehide", keep);
    for (const each of leave) each();
  };
}
