/** The destinations of a show, what is checked before an export for one, and what was exported together. */
import { useQuery } from "@tanstack/react-query";
import { client, got, type Episode, type Head } from "../../api/client";
import { USUAL_EXPORT } from "../../api/exports";
import type { SchemaCheckOut, SchemaDestinationFields, SchemaDestinationOut } from "../../api/schema";
import type { Stage } from "../../page/stage";
import { captions } from "../captions/stage";
import { cut } from "../cut/stage";
import { gather } from "../gather/stage";
import { picture } from "../picture/stage";
import { read } from "../read/stage";
import { reuse } from "../reuse/stage";
import { sound } from "../sound/stage";

export type Destination = SchemaDestinationOut;
export type DestinationFields = SchemaDestinationFields;
export type Check = SchemaCheckOut;
type Export = Episode["exports"][number];

export const keyOf = (show: string) => ["destinations", show] as const;

export const useDestinations = (show_id: string) =>
  useQuery({ queryKey: keyOf(show_id), queryFn: () => got(client.GET("/api/shows/{show_id}/destinations", { params: { path: { show_id } } })) }).data?.destinations ?? [];

/** What there is to look at; asked again whenever the edition, its words or the show's destinations change. */
export const useChecks = (head: Head, destination: Destination, wanted: boolean) =>
  useQuery({
    queryKey: ["checks", head.id, destination, head.revision, head.layout],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/checks", { params: { path: { edition_id: head.id }, query: { destination: destination.key } } })),
    enabled: wanted,
    placeholderData: (known) => known,
    gcTime: 10_000,
  });

export const send = (edition_id: string, destination: string) =>
  got(client.POST("/api/editions/{edition_id}/exports", { params: { path: { edition_id } }, body: { ...USUAL_EXPORT, form: null, destination } }));

/** Which stage mends what was found. */
export const MENDS: Record<Check["kind"], readonly [stage: Stage, label: string] | null> = {
  "nothing kept": [cut, "Open Cut"],
  "too long": [cut, "Bring it to length"],
  "media missing": [gather, "Find it again"],
  "disk space": null,
  loudness: [sound, "Set a loudness"],
  "voice without a name": [read, "Name it"],
  "words in doubt": [read, "Judge them"],
  "captions too fast": [captions, "See the captions"],
  "captions over a face": [captions, "See the captions"],
  "face outside": [picture, "Move the picture"],
  "no chapters": [reuse, "Find chapters"],
};

export interface Made {
  job: string;
  name: string;
  files: Export[];
}

/** Exports that came of one job stand together, the newest first, the file itself before what goes along. */
export function together(exports: readonly Export[]): Made[] {
  const found = new Map<string, Made>();
  for (const each of exports.toSorted((a, b) => b.created.localeCompare(a.created) || a.id.localeCompare(b.id))) {
    const known = found.get(each.job_id);
    if (known) known.files.push(each);
    else found.set(each.job_id, { job: each.job_id, name: each.destination, files: [each] });
  }
  return [...found.values()].map((made) => ({ ...made, files: made.files.toSorted((a, b) => a.id.length - b.id.length || a.id.localeCompare(b.id)) }));
}
