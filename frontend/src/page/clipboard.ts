/** Copying stretches of an edition, to be pasted in it, in another edition, another episode or another show. */
import { client, got, queryClient } from "../api/client";
import type { SchemaCopyOut } from "../api/schema";
import { clock } from "../api/time";
import { indexAt, selected } from "./tokens";
import { desk, failed } from "../desk/desk";
import { here, playhead, select } from "../desk/place";
import type { Scene } from "./scene";

const KEPT = "jaskel.copied";

export function kept(): SchemaCopyOut | null {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "null") as SchemaCopyOut | null;
  } catch {
    return null;
  }
}

/** Copy what is selected; `cut` also lifts it, `collect` lays it behind what was copied before. */
export async function copy({ tokens, head, edit }: Scene, how: "copy" | "cut" | "collect") {
  const range = selected(tokens.list, here().selection);
  if (!range) return desk().say("Select what to copy first.");
  const ranges = [{ begin: range[0], end: range[1] }];
  try {
    let copied = await got(client.POST("/api/editions/{edition_id}/copy", { params: { path: { edition_id: head.id } }, body: { ranges } }));
    const before = how === "collect" ? kept() : null;
    if (before) copied = { pieces: [...before.pieces, ...copied.pieces], text: `${before.text} ${copied.text}`, length: before.length + copied.length };
    localStorage.setItem(KEPT, JSON.stringify(copied));
    // Elsewhere it is the text that is wanted. Not every browser allows it without being asked.
    void navigator.clipboard?.writeText(copied.text).catch(() => undefined);
    if (how === "cut") edit.operate({ kind: "lift", ranges, why: "by hand" });
    else desk().say(`${how === "collect" ? "Collected" : "Copied"} ${clock(copied.length, 1)}: paste it here, in another edition or another episode`);
  } catch (error) {
    failed(error);
  }
}

/** Paste what was copied here at the playhead, or behind what is selected; `text` is what the clipboard of the machine has. */
export async function paste({ tokens, edit, reveal }: Scene, text?: string) {
  const copied = kept();
  if (text !== undefined && text.trim() && text.trim() !== copied?.text.trim()) {
    desk().set({ panel: "note", draft: text.trim() });
    return desk().say("This text was not copied from a recording, so it can only be added as a note.");
  }
  if (!copied) return desk().say("Nothing has been copied yet. Select something and copy it first.");
  const picked = selected(tokens.list, here().selection);
  const at = picked ? picked[1] : (tokens.list[indexAt(tokens.list, playhead())]?.at ?? 0);
  edit.operate({ kind: "insert", at, pieces: copied.pieces }, () => {
    select({ anchor: at, focus: at + copied.length - 1 });
    // The recordings of another episode come along as references.
    void queryClient.invalidateQueries({ queryKey: ["episode"] });
    requestAnimationFrame(() => reveal(at));
  });
}
