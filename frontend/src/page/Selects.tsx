/** Selects: stretches marked as good, drawn as a wash over their words and a bracket in the margin. */
import { useLayoutEffect, useRef, type RefObject } from "react";
import { author } from "../api/author";
import { client, got, queryClient, type Head, type Passage } from "../api/client";
import type { SchemaSelectOut as Select } from "../api/schema";
import { desk, failed } from "../desk/desk";
import { select as choose } from "../desk/place";

export const COLOURS = ["amber", "rose", "sky", "moss", "violet", "slate"] as const satisfies readonly Select["colour"][];

/** Colours of the washes over words, by the place of the token. */
export function washes({ recording, tokens }: Passage, selects: readonly Select[]): ReadonlyMap<number, Select> {
  const found = new Map<number, Select>();
  for (const select of selects) {
    if (select.recording !== recording) continue;
    for (const token of tokens) {
      const middle = token.t + token.len / 2;
      if (token.t >= 0 && middle >= select.start && middle < select.end) found.set(token.at, select);
    }
  }
  return found;
}

/** After marks of the material were set, the episode and what can be undone are read again. */
export const marksChanged = () => Promise.all([queryClient.invalidateQueries({ queryKey: ["episode"] }), queryClient.invalidateQueries({ queryKey: ["head"] })]);

export async function markAsGood(head: Head, [begin, end]: readonly [number, number], colour: Select["colour"]) {
  const params = { path: { episode_id: head.episode_id } };
  try {
    await got(client.POST("/api/episodes/{episode_id}/selects", { params, body: { edition: head.id, begin, end, colour, ...author() } }));
    await marksChanged();
    desk().say(`Marked as good, in ${colour}`, { undo: true });
  } catch (error) {
    failed(error);
  }
}

export async function takeOff(head: Pick<Head, "episode_id">, select: Select) {
  const params = { path: { episode_id: head.episode_id, mark_id: select.id }, query: author() };
  try {
    await got(client.DELETE("/api/episodes/{episode_id}/selects/{mark_id}", { params }));
    await marksChanged();
    desk().say("Removed the select", { undo: true });
  } catch (error) {
    failed(error);
  }
}

/** A bracket beside the lines of each select of a passage; a click selects its words. */
export function SelectBrackets({ washed, box, width }: { washed: ReadonlyMap<number, Select>; box: RefObject<HTMLElement | null>; width: number }) {
  const places = new Map<string, { select: Select; first: number; last: number }>();
  for (const [at, select] of washed) {
    const known = places.get(select.id);
    places.set(select.id, { select, first: Math.min(known?.first ?? at, at), last: Math.max(known?.last ?? at, at) });
  }
  return [...places.values()].map((place, index) => <Bracket key={place.select.id} {...place} lane={index % 3} box={box} width={width} />);
}

function Bracket({ select, first, last, lane, box, width }: { select: Select; first: number; last: number; lane: number; box: RefObject<HTMLElement | null>; width: number }) {
  const mark = useRef<HTMLButtonElement>(null);
  useLayoutEffect(() => {
    const [from, to] = [first, last].map((at) => box.current?.querySelector<HTMLElement>(`[data-at="${at}"]`));
    if (!mark.current || !from || !to) return;
    mark.current.style.top = `${from.offsetTop + 3}px`;
    mark.current.style.height = `${to.offsetTop - from.offsetTop + 24}px`;
  }, [first, last, box, width]);
  return (
    <button
      ref={mark}
      type="button"
      aria-label={`Select, ${select.colour}`}
      title={`Marked as good, in ${select.colour}${select.who ? ` by ${select.who}` : ""}. Click to select its words`}
      data-colour={select.colour}
      className="select-bracket"
      style={{ right: -7 + 4 * lane }}
      onPointerDown={(event) => {
        event.stopPropagation();
        choose({ anchor: first, focus: last });
      }}
    />
  );
}
