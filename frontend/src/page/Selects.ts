/** Selects: stretches marked as good. Each is a wash over its words and a bracket in the margin. */
import { author } from "../api/author";
import { client, got, queryClient, type Head } from "../api/client";
import type { SchemaSelectOut as Select } from "../api/schema";
import { desk, failed } from "../desk/desk";
import type { PageMark, Placed } from "./marks";

export const COLOURS = ["amber", "rose", "sky", "moss", "violet", "slate"] as const satisfies readonly Select["colour"][];

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

/** Moves the ends of a select to where they were dragged on the page. */
async function moveEnds(head: Pick<Head, "episode_id">, select: Select, ends: [number, number]) {
  const params = { path: { episode_id: head.episode_id, mark_id: select.id } };
  try {
    await got(client.PATCH("/api/episodes/{episode_id}/selects/{mark_id}", { params, body: { ends, colour: null, ...author() } }));
    await marksChanged();
    desk().say("Moved an end of the select", { undo: true });
  } catch (error) {
    failed(error);
  }
}

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
