/** Lower thirds and titles above the words they stand over. */
import type { Head } from "../api/client";
import type { SchemaGraphicOut as Graphic } from "../api/schema";
import type { Edit, Operation } from "./edit";
import type { PageMark } from "./marks";

export type { Graphic };

/** The operation that changes something of a lower third or a title. */
export function changedGraphic({ id, kind, begin, end, text, voice, name, role, down }: Graphic, next: Partial<Omit<Graphic, "id" | "kind">>): Operation {
  const both = { id, begin, end };
  return kind === "title" ? { kind, ...both, text, down, ...next } : ({ kind, ...both, voice, name, role, ...next } as Operation);
}

export function graphicMarks(head: Head, edit: Edit): PageMark[] {
  return head.graphics.map((graphic) => {
    const { id, kind, begin, end, text } = graphic;
    const told = text.replaceAll("\n", " ");
    return {
      id: `graphic ${id}`,
      lane: "above",
      begin,
      end,
      look: "graphic",
      text: told,
      label: `${kind === "title" ? "Title" : "Lower third"}: ${told}`,
      resize: (from, to) => new Promise<void>((done) => void edit.operate(changedGraphic(graphic, { begin: from, end: to }), () => done())),
    };
  });
}
