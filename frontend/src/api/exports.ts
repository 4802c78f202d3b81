/** What is asked of an export, where nobody chose otherwise. */
import type { SchemaNewExport as Asked } from "./schema";

export type CaptionFilesAsked = Pick<Asked, "texts" | "rate" | "channel" | "named" | "placed" | "word_times">;

export const USUAL_FILES: CaptionFilesAsked = { texts: "first", rate: "25", channel: "CC1", named: false, placed: false, word_times: false };

export const USUAL_EXPORT: Omit<Asked, "form"> = { destination: "", part: null, bits: 192_000, muted: false, captions: [], hour: 0, ...USUAL_FILES };
