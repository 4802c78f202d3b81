/** Shows where the playhead is on words that are drawn already: while something is played, nothing is drawn anew for it. */
import { useEffect, useLayoutEffect, type RefObject } from "react";
import { clock } from "../api/time";
import { desk } from "../desk/desk";
import { playhead, usePlace, watchPlayhead } from "../desk/place";
import type { TimeAt } from "./times";
import { indexAt, type Tokens } from "./tokens";

/** How long the caret stands before it is said where. */
const SAID_AFTER = 300;

/** Marks the token at a place, and how much of it was played; gives where that token begins. */
function mark(box: HTMLElement | null, { list }: Tokens, laid: number): number | undefined {
  const token = list[indexAt(list, laid)];
  if (!box || !token) return undefined;
  let now = box.querySelector<HTMLElement>("[data-now]");
  if (now?.dataset["at"] !== `${token.at}`) {
    now?.removeAttribute("data-now");
    now = box.querySelector<HTMLElement>(`[data-token][data-at="${token.at}"]`);
    now?.setAttribute("data-now", "");
  }
  now?.style.setProperty("--played", `${Math.min(1, Math.max(0, (laid - token.at) / token.len))}`);
  return token.at;
}

/** Marks the token at the playhead wherever that goes; `follow` is told of each next one while it runs. */
export function useReading(box: RefObject<HTMLElement | null>, tokens: Tokens, follow: (laid: number) => void) {
  useEffect(() => {
    let last: number | undefined;
    return watchPlayhead((laid) => {
      const at = mark(box.current, tokens, laid);
      if (at !== undefined && at !== last && desk().playing) follow(at);
      last = at;
    });
  }, [box, tokens, follow]);
  // Words that have just been scrolled to or changed are drawn without it.
  useLayoutEffect(() => void mark(box.current, tokens, playhead()));
}

/** Says where the caret was put, once it stands there, to those who do not see it. */
export function useCaretSaid(box: RefObject<HTMLElement | null>, tokens: Tokens, timeAt: TimeAt) {
  useEffect(() => {
    let waiting = 0;
    const leave = usePlace.subscribe((now, before) => {
      if (now.cursor === before.cursor || desk().playing) return;
      window.clearTimeout(waiting);
      waiting = window.setTimeout(() => {
        const token = tokens.list[indexAt(tokens.list, now.cursor)];
        if (box.current && token) box.current.textContent = `${token.k === "w" ? token.text : "rest"}, ${clock(timeAt(token.at))}`;
      }, SAID_AFTER);
    });
    return () => {
      window.clearTimeout(waiting);
      leave();
    };
  }, [box, tokens, timeAt]);
}
