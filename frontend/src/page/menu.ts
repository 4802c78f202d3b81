/** What on the page was pointed at, for the menu of what can be done with it. */
import { here, playhead, put, select } from "../desk/place";
import { indexAt, selected, type Tokens } from "./tokens";

export type Kind = "words" | "rest" | "passage" | "splice";

/**
 * Finds what was pointed at and selects it, unless it is part of what is selected already. A menu that is opened by key is about
 * the selection, or else the word at the playhead.
 */
export function pointAt(target: EventTarget | null, tokens: Tokens): Kind {
  const { list } = tokens;
  const pointed = target instanceof Element ? target.closest<HTMLElement>("[data-splice], [data-passage], [data-at]") : null;
  const { splice, passage, at } = pointed?.dataset ?? {};
  if (splice !== undefined) {
    select(null);
    put(Number(splice));
    return "splice";
  }
  if (passage !== undefined) {
    const inside = list.filter((_, index) => tokens.passage[index] === Number(passage));
    const [first, last] = [inside[0], inside.at(-1)];
    if (first && last) select({ anchor: first.at, focus: last.at });
    return "passage";
  }
  const picked = selected(list, here().selection);
  const laid = at === undefined ? (picked?.[0] ?? playhead()) : Number(at);
  const token = list[indexAt(list, laid)];
  if (!token) return "words";
  const within = picked !== null && laid >= picked[0] && laid < picked[1];
  if (!within) {
    put(token.at);
    select({ anchor: token.at, focus: token.at });
  }
  return token.k === "r" && !(within && picked[1] - picked[0] > token.len) ? "rest" : "words";
}
