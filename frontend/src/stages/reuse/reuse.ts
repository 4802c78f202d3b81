/** What is proposed of an edition, and what is wished of it. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { create } from "zustand";
import { client, got, type Head } from "../../api/client";
import type { components } from "../../api/schema";
import { desk, failed } from "../../desk/desk";
import type { PageMark } from "../../page/marks";
import { player } from "../../player/player";

export type Kind = "highlights" | "clips" | "length";
export type Wish = components["schemas"]["WishField"];
export type Proposal = components["schemas"]["HighlightOut"];

/** Which proposals are drawn on the page. */
export const useShown = create<{ kind: Kind | null }>(() => ({ kind: null }));

type Edited = Pick<Head, "id" | "revision" | "layout">;

const key = (head: Edited, kind: Kind | null) => ["proposals", head.id, head.revision, head.layout, kind];

/** How many sentences the summary has, and how often another one, or other titles, were asked for. */
export interface Asked {
  count: number;
  again: number;
  other_titles: number;
}

/** What is known of what is said; asked again until it is. */
export const useReuse = (head: Edited, asked: Asked) =>
  useQuery({
    queryKey: ["reuse", head.id, head.revision, head.layout, asked],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/reuse", { params: { path: { edition_id: head.id }, query: { ...asked } } })),
    refetchInterval: ({ state }) => (state.data && !state.data.ready ? 1000 : false),
    placeholderData: (known) => (known?.ready ? known : undefined),
  });

export const useProposals = (head: Edited, kind: Kind | null) =>
  useQuery({
    queryKey: key(head, kind),
    queryFn: () => got(client.GET("/api/editions/{edition_id}/proposals/{kind}", { params: { path: { edition_id: head.id, kind: kind as Kind } } })),
    enabled: kind !== null,
    retry: false,
    placeholderData: (known) => known,
  });

/** Stores a wish and shows what is proposed by it. */
export function useWish(head: Edited, kind: Kind) {
  const queries = useQueryClient();
  return (wish: Wish) =>
    got(client.PUT("/api/editions/{edition_id}/proposals/{kind}", { params: { path: { edition_id: head.id, kind } }, body: wish })).then(
      (made) => queries.setQueryData(key(head, kind), made),
      failed,
    );
}

/** Play what is proposed, from its first word to its last; what is struck in between is passed over. */
export const hear = ({ ranges }: Proposal) => {
  const [first, last] = [ranges[0], ranges.at(-1)];
  if (first && last) player.playBetween(first.begin, last.end);
};

export const same = (one: Proposal["place"], other: Proposal["place"]) => one.recording === other.recording && one.at === other.at;

/** Proposals on the page: a dashed wash over their words. */
export const proposalMarks = (proposals: readonly Proposal[]): PageMark[] =>
  proposals.flatMap((each, number) =>
    each.ranges.map((range, part): PageMark => ({ id: `proposed ${number} ${part}`, lane: "over", ...range, look: "proposed", label: `Proposed: ${each.why}`, selects: { anchor: range.begin, focus: range.end - 1 } })),
  );

/** Opens an edition that was made, and says so. */
export function openMade(edition: string, text: string) {
  desk().set({ edition });
  desk().say(text);
}
