/** Who is seen: the shots of an edition above the words. */
import { keepPreviousData, queryOptions, useQuery, type QueryClient } from "@tanstack/react-query";
import { client, got, type Head, type Voice } from "../api/client";
import type { SchemaShotOut as Shot, SchemaShotsOut as Shots } from "../api/schema";
import type { Edit } from "./edit";
import type { PageMark } from "./marks";
import { inkOf } from "./sources";

export type { Shot, Shots };

const NO_SHOTS: readonly Shot[] = [];

const shotsOf = ({ id, revision, layout }: Head, shortest: number | null) =>
  queryOptions({
    queryKey: ["shots", id, revision, layout, shortest],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/shots", { params: { path: { edition_id: id }, query: { shortest } } })),
    staleTime: Infinity,
    gcTime: 20_000,
  });

/** The shots of an edition, or how they would be with another shortest length. */
export const useAllShots = (head: Head, shortest: number | null = null) => useQuery({ ...shotsOf(head, shortest), placeholderData: keepPreviousData }).data;

/** The shots of an edition as it is now, and not as it was a moment ago: what a key does depends on them. */
export const shotsNow = (queries: QueryClient, head: Head) => queries.fetchQuery(shotsOf(head, null));

export const useShots = (head: Head) => useAllShots(head)?.shots ?? NO_SHOTS;

/** Who is seen in a shot, and how, in a few words. */
export function nameOf({ framing, voices }: Pick<Shot, "framing" | "voices">, known: ReadonlyMap<string, Voice>) {
  const names = voices.map((voice) => known.get(voice)?.shown ?? "Voice");
  if (names.length < 2) return names[0] ?? "first camera";
  return `${names.join(" and ")}, ${framing}`;
}

/** Show ranges otherwise; with a null framing, as it follows. */
export const choose = (edit: Edit, ranges: readonly Pick<Shot, "begin" | "end">[], framing: Shot["framing"] | null, voices: readonly string[] = [], then: () => void = () => undefined) =>
  edit.operate({ kind: "shot", ranges: ranges.map(({ begin, end }) => ({ begin, end })), framing, voices: [...voices] }, then);

export function shotMarks(shots: readonly Shot[], voices: readonly Voice[], edit: Edit): PageMark[] {
  const known = new Map(voices.map((voice) => [voice.id, voice]));
  const give = (shot: Shot | undefined, begin: number, end: number) => new Promise<void>((done) => (shot ? choose(edit, [{ begin, end }], shot.framing, shot.voices, done) : done()));
  return shots.map((shot, index) => {
    const name = nameOf(shot, known);
    const [before, after] = [shots[index - 1], shots[index + 1]];
    const { begin, end, by_hand } = shot;
    return {
      id: `shot ${begin}`,
      lane: "above",
      begin,
      end,
      look: "shot",
      ink: inkOf(known.get(shot.voices[0] ?? "")),
      text: by_hand ? `${name} · by hand` : name,
      label: `Seen: ${name}${by_hand ? ", chosen by hand" : ""}`,
      // An edge lies between two: the one that grows is chosen by hand from then on.
      resize: (from, to) => {
        if (from > begin) return give(before, before?.begin ?? begin, from);
        if (to < end) return give(after, to, after?.end ?? end);
        return give(shot, from, to);
      },
    };
  });
}
