/** Selects: stretches marked as good. Each is a wash over its words and a bracket in the margin. */
import { author } from "../api/author";
import { client, got, type Head } from "../api/client";
import type { SchemaSelectOut as Select } from "../api/schema";
import { change } from "../desk/change";
import type { PageMark, Placed } from "./marks";

export const COLOURS = ["amber", "rose", "sky", "moss", "violet", "slate"] as const satisfies readonly Select["colour"][];

/** Changes marks of the material; the episode and what can be undone are read again. */
export const changeMarks = (send: () => Promise<unknown>, text: string) => change([["episode"], ["head"]], send, { text, undo: "step" });

export const markAsGood = (head: Head, ranges: readonly { begin: number; end: number }[], colour: Select["colour"]) =>
  changeMarks(
    () => got(client.POST("/api/episodes/{episode_id}/selects", { params: { path: { episode_id: head.episode_id } }, body: { edition: head.id, ranges: [...ranges], colour, ...author() } })),
    `Marked as good, in ${colour}`,
  );

const of = (head: Pick<Head, "episode_id">, select: Select) => ({ path: { episode_id: head.episode_id, mark_id: select.id } });

export const takeOff = (head: Pick<Head, "episode_id">, select: Select) =>
  changeMarks(() => got(client.DELETE("/api/episodes/{episode_id}/selects/{mark_id}", { params: { ...of(head, select), query: author() } })), "Removed the select");

/** Writes a note on a select, or rates it from 1 to 3; 0 is no rating. */
export const annotate = (head: Pick<Head, "episode_id">, select: Select, what: { note: string } | { rating: number }) =>
  changeMarks(
    () => got(client.PATCH("/api/episodes/{episode_id}/selects/{mark_id}", { params: of(head, select), body: { ends: null, colour: null, note: null, rating: null, ...what, ...author() } })),
    "note" in what ? "Wrote a note on the select" : what.rating ? `Rated the select ${what.rating} of 3` : "Took the rating off the select",
  );

/** Says what a colour of selects stands for in the show; an empty name takes that back. */
export const nameColour = (show_id: string, colour: Select["colour"], name: string) =>
  change([["episode"]], () => got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id } }, body: { name: null, about: null, deleted: null, numbers: null, colours: { [colour]: name } } })));

/** Moves the ends of a select to where they were dragged on the page. */
const moveEnds = (head: Pick<Head, "episode_id">, select: Select, ends: [number, number]) =>
  changeMarks(
    () => got(client.PATCH("/api/episodes/{episode_id}/selects/{mark_id}", { params: of(head, select), body: { ends, colour: null, note: null, rating: null, ...author() } })),
    "Moved an end of the select",
  );

/** The marks of a select where it is placed on the page. */
export function selectMarks(head: Pick<Head, "episode_id">, select: Select, { id, begin, end, toMaterial }: Placed): PageMark[] {
  const label = ["Select", select.colour, select.who && `by ${select.who}`, select.rating > 0 && `${select.rating} of 3`, select.note].filter(Boolean).join(", ");
  const mark = { begin, end, look: "select", colour: select.colour, label };
  const resize = (first: number, last: number) => moveEnds(head, select, [toMaterial(first), toMaterial(last)]);
  return [
    { ...mark, id: `wash ${id}`, lane: "over", resize },
    { ...mark, id, lane: "margin", selects: { anchor: begin, focus: end - 1 } },
  ];
}
