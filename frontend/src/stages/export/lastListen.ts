/** The last listen: the likeliest places one after the other, each passed or mended by a key. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { client, got, queryClient, type Head } from "../../api/client";
import type { SchemaHearOut, SchemaLastListenOut } from "../../api/schema";
import { change } from "../../desk/change";
import { select } from "../../desk/place";
import type { Scene } from "../../page/scene";
import { player } from "../../player/player";

export type Hear = SchemaHearOut;

/** The key of the place that is heard now, while one listens. */
export const useListening = create<{ at: string | null }>(() => ({ at: null }));

const keyOf = (head: Pick<Head, "id" | "revision" | "layout">) => ["last listen", head.id, head.revision, head.layout] as const;

export const useLastListen = (head: Head) =>
  useQuery({
    queryKey: keyOf(head),
    queryFn: () => got(client.GET("/api/editions/{edition_id}/last-listen", { params: { path: { edition_id: head.id } } })),
    placeholderData: (known) => known,
    gcTime: 10_000,
  }).data;

const known = (head: Head) => queryClient.getQueryData<SchemaLastListenOut>(keyOf(head))?.places ?? [];

/** The next place that was not passed yet, from one on; round at the end. */
export function nextOf(places: readonly Hear[], from: string | null): Hear | undefined {
  const index = places.findIndex((each) => each.key === from);
  return [...places.slice(index + 1), ...places.slice(0, index + 1)].find((each) => !each.passed && each.key !== from);
}

/** Selects and plays a place; without one the listening is over. */
export function hear(place: Hear | undefined, reveal: (laid: number) => void) {
  useListening.setState({ at: place?.key ?? null });
  if (!place) return select(null);
  select({ anchor: place.laid, focus: place.laid, exact: true });
  reveal(place.laid);
  player.playBetween(place.begin, place.until, place.laid);
}

/** The place that is heard is good, and the next is heard. */
export function pass({ head, reveal }: Pick<Scene, "head" | "reveal">) {
  const places = known(head);
  const at = useListening.getState().at;
  const place = places.find((each) => each.key === at);
  if (!place) return;
  queryClient.setQueryData<SchemaLastListenOut>(keyOf(head), (old) => old && { ...old, places: old.places.map((each) => (each.key === at ? { ...each, passed: true } : each)) });
  void change([keyOf(head)], () => got(client.POST("/api/editions/{edition_id}/last-listen", { params: { path: { edition_id: head.id } }, body: { key: place.key, passed: true } })));
  hear(nextOf(known(head), at), reveal);
}

/** The place once more, or the first of those that were not passed. */
export function again({ head, reveal }: Pick<Scene, "head" | "reveal">) {
  const places = known(head);
  hear(places.find((each) => each.key === useListening.getState().at) ?? nextOf(places, null), reveal);
}

/** On to the next, without a word about this one. */
export function skip({ head, reveal }: Pick<Scene, "head" | "reveal">) {
  hear(nextOf(known(head), useListening.getState().at), reveal);
}
