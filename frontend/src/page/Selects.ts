/** Selects: stretches marked as good. Each is a wash over its words and a bracket in the margin. */
import { author } from "../api/author";
import { client, got, type Head } from "../api/client";
import type { SchemaSelectOut as Select } from "../api/schema";
import { change } from "../desk/change";
import type { PageMark, Placed } from "./marks";

export const COLOURS = ["amber", "rose", "sky", "moss", "violet", "slate"] as const satisfies readonly Select["colour"][];

/** Changes marks of the material; the episode and what can be undone are read again. */
export const changeMarks = (send: () => Promise<unknown>, text: string) => change([["episode"], ["head"]], send, { text, undo: "step" });

export const markAsGood = (head: Head, [begin, end]: readonly [number, number], colour: Select["colour"]) =>
  changeMarks(
    () => got(client.POST("/api/episodes/{episode_id}/selects", { params: { path: { episode_id: head.episode_id } }, body: { edition: head.id, begin, end, colour, ...author() } })),
    `Marked as good, in ${colour}`,
  );

const of = (head: Pick<Head, "episode_id">, select: Select) => ({ path: { episode_id: head.episode_id, mark_id: select.id } });

export const takeOff = (head: Pick<Head, "episode_id">, select: Select) =>
  changeMarks(() => got(client.DELETE("/api/episodes/{episode_id}/selects/{mark_id}", { params: { ...of(head, select), query: author() } })), "Removed the select");

/** Moves the ends of a select to where they were dragged on the page. */
const moveEnds = (head: Pick<Head, "episode_id">, select: Select, ends: [number, number]) =>
  changeMarks(
    () => got(client.PATCH("/api/episodes/{episode_id}/selects/{mark_id}", { params: of(head, select), body: { ends, colour: null, ...author() } })),
    "Moved an end of the select",
  );

/** The marks of a select where it is placed on the page. */
export function selectMarks(head: Pick<Head, "episode_id">, select: Select, { id, begin, end, toMaterial }: Placed): PageMark[] {
  const label = `Select, ${select.colour}${select.who ? `, by ${select.who}` : ""}`;
  const mark = { begin, end, look: "select", colour: select.colour, label };
  const resize = (first: number, last: number) => moveEnds(head, select, [toMaterial(first), toMaterial(last)]);
  return [
    { ...mark, id: `wash ${id}`, lane: "over", resize },
    { ...mark, id, lane: "margin", selects: { anchor: begin, focus: end - 1 } },
  ];
}
