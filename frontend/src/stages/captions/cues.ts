/** The captions of an edition: what the page marks of them, and stepping through what is wrong with them. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, got, queryClient } from "../../api/client";
import type { SchemaCueOut as Cue } from "../../api/schema";
import type { Edit } from "../../page/edit";
import type { PageMark } from "../../page/marks";
import type { Scene } from "../../page/scene";
import { player } from "../../player/player";
import { select } from "../../desk/place";

export type { Cue };

const keyOf = (edition: string) => ["cues", edition] as const;

export const useCues = (edition_id: string, revision: number, layout: string) =>
  useQuery({
    queryKey: [...keyOf(edition_id), revision, layout],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/cues", { params: { path: { edition_id } } })),
    placeholderData: keepPreviousData,
  });

export type Before = "cue" | "line" | "together" | "";

/** Break captions before a word as somebody wants it; with `instead`, the break there moves to it. */
export const breakAt = (edit: Edit, at: number, before: Before, instead: number | null = null, then: () => void = () => undefined) =>
  edit.operate({ kind: "caption break", at: Math.round(at), before, instead }, then);

/** Bars between the words: a long one where a caption begins, a short one where a line does; washes over what is read too quickly. */
export function cueMarks(cues: readonly Cue[], edit: Edit): readonly PageMark[] {
  const moved = (instead: number, before: "cue" | "line") => (at: number) => new Promise<void>((resolve) => breakAt(edit, at, before, instead, resolve));
  return cues.flatMap((cue, index) => {
    const bars: PageMark[] = [];
    if (index > 0) bars.push({ id: `cue ${cue.begin}`, lane: "between", begin: cue.begin, end: cue.begin + 1, look: "cue", label: "A caption begins here. Drag it to another word", move: moved(cue.begin, "cue") });
    for (const at of cue.breaks) bars.push({ id: `line ${at}`, lane: "between", begin: at, end: at + 1, look: "line", label: "A line begins here. Drag it to another word", move: moved(at, "line") });
    if (cue.said) bars.push({ id: `worded ${cue.begin}`, lane: "over", begin: cue.begin, end: cue.until, look: "worded", label: `Captions read: ${cue.lines.join(" ")}` });
    const fault = cue.faults.find((each) => each.fault !== "doubtful");
    if (fault) bars.push({ id: `fault ${cue.begin}`, lane: "over", begin: cue.begin, end: cue.until, look: "fault", label: fault.told });
    return bars;
  });
}

/** Look at a caption: its words are selected. */
export function lookAt(cue: Cue | undefined, reveal: (laid: number) => void) {
  if (!cue) return;
  select({ anchor: cue.begin, focus: Math.max(cue.begin, cue.until - 1) });
  player.seek(cue.begin);
  reveal(cue.begin);
}

/** The next caption after a laid time with something wrong; the first after the last. */
export const nextFault = (cues: readonly Cue[], after: number) => {
  const wrong = cues.filter((cue) => cue.faults.length > 0);
  return wrong.find((cue) => cue.begin > after) ?? wrong[0];
};

/** Step to the next caption with something wrong. */
export function stepOn({ head, reveal }: Scene, after: number) {
  const known = queryClient.getQueriesData<{ cues: Cue[] }>({ queryKey: keyOf(head.id) }).at(-1)?.[1]?.cues ?? [];
  lookAt(nextFault(known, after), reveal);
}
