/** Cutaways above the words they lie over. */
import type { Head } from "../api/client";
import type { SchemaCutawayOut as Cutaway } from "../api/schema";
import type { Edit, Operation } from "./edit";
import type { PageMark } from "./marks";

export type { Cutaway };

export const thumbnailOf = (recording: string) => `/api/recordings/${recording}/thumbnail`;

/** The operation that changes something of a cutaway whose words are here. */
export function changedCutaway(cutaway: Cutaway, next: Partial<Omit<Cutaway, "id" | "kind" | "name">>): Operation {
  const { id, recording, begin, end, place, framing, first, last, decibels, on } = cutaway;
  return { kind: "cutaway", id, recording, begin: begin ?? 0, end: end ?? 0, place, framing, first, last, decibels, on, ...next } as Operation;
}

export function cutawayMarks(head: Head, edit: Edit): PageMark[] {
  return head.cutaways.flatMap((cutaway) => {
    const { id, name, begin, end, recording, on } = cutaway;
    if (typeof begin !== "number" || typeof end !== "number") return [];
    return {
      id: `cutaway ${id}`,
      lane: "above" as const,
      begin,
      end,
      look: on ? "cutaway" : "cutaway off",
      text: on ? name : `${name} · off`,
      picture: thumbnailOf(recording),
      label: `Cutaway: ${name}`,
      resize: (from: number, to: number) => new Promise<void>((done) => void edit.operate(changedCutaway(cutaway, { begin: from, end: to }), () => done())),
    };
  });
}
