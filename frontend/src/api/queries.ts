/** What the page knows of the server's state, and how it asks. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { author } from "./author";
import { client, got, queryClient, Refusal } from "./client";

export const keys = {
  shows: ["shows"] as const,
  episode: (id: string) => ["episode", id] as const,
  head: (id: string) => ["head", id] as const,
  page: (id: string, layout: string) => ["page", id, layout] as const,
  plan: (id: string, mode: string, revision: number) => ["plan", id, mode, revision] as const,
  findings: (id: string, revision: number) => ["findings", id, revision] as const,
  rests: (id: string, revision: number, longer: number, becomes: number) => ["rests", id, revision, longer, becomes] as const,
  weights: ["weights"] as const,
  peaks: (id: string) => ["peaks", id] as const,
};

export const useShows = () => useQuery({ queryKey: keys.shows, queryFn: () => got(client.GET("/api/shows")) });

export const useEpisode = (episode_id: string) =>
  useQuery({
    queryKey: keys.episode(episode_id),
    queryFn: () => got(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id } } })),
  });

/** Weights of the recogniser; asked again while some are being tried. */
export const useWeights = () =>
  useQuery({
    queryKey: keys.weights,
    queryFn: () => got(client.GET("/api/weights")),
    refetchInterval: ({ state }) => (state.data?.weights.some((each) => each.state === "checking") ? 1500 : false),
  });

/** What an edition can be exported as. */
export const useForms = () => useQuery({ queryKey: ["forms"], queryFn: () => got(client.GET("/api/forms")), staleTime: Infinity });

export const useHead = (edition_id: string) =>
  useQuery({
    queryKey: keys.head(edition_id),
    queryFn: () => got(client.GET("/api/editions/{edition_id}", { params: { path: { edition_id }, query: author() } })),
    enabled: edition_id !== "",
  });

/** The words of an edition in a layout; they stay as long as the layout does, whatever is struck. */
export const usePageWords = (edition_id: string, layout: string | undefined) =>
  useQuery({
    queryKey: keys.page(edition_id, layout ?? ""),
    queryFn: async () => {
      const page = await got(client.GET("/api/editions/{edition_id}/page", { params: { path: { edition_id } } }));
      if (page.layout === layout) return page;
      // The edition has moved on since its head was read: this page goes with a newer one.
      queryClient.setQueryData(keys.page(edition_id, page.layout), page);
      void queryClient.invalidateQueries({ queryKey: keys.head(edition_id) });
      throw new Refusal({ detail: "The page has changed meanwhile.", code: "moved-on" });
    },
    retry: false,
    enabled: edition_id !== "" && layout !== undefined,
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    gcTime: 60_000,
    structuralSharing: false,
  });

export const usePlan = (edition_id: string, mode: "edited" | "recorded", revision: number) =>
  useQuery({
    queryKey: keys.plan(edition_id, mode, revision),
    queryFn: () =>
      got(client.GET("/api/editions/{edition_id}/plan", { params: { path: { edition_id }, query: { mode, without: "" } } })),
    enabled: edition_id !== "" && revision > 0,
    placeholderData: keepPreviousData,
    structuralSharing: false,
    gcTime: 30_000,
  });

/** How loud an edition is over time, where that was measured as it is now. */
export const useCurve = (edition_id: string, revision: number, enabled = true) =>
  useQuery({
    queryKey: ["loudness", edition_id, revision],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/loudness", { params: { path: { edition_id } } })),
    placeholderData: (known) => known,
    enabled,
  });

/** Envelopes of recordings: one byte for each 10 ms. */
export const peaksQuery = (recording: string) => ({
  queryKey: keys.peaks(recording),
  queryFn: async () => {
    const response = await fetch(`/api/recordings/${recording}/peaks`);
    if (!response.ok) throw new Error("no peaks yet");
    return new Uint8Array(await response.arrayBuffer());
  },
  staleTime: Infinity,
});

/** The sound of a stretch as it is drawn: least and most of each point, as signed bytes. */
export const waveQuery = (recording: string, start: number, end: number, points: number) => ({
  queryKey: ["wave", recording, start, end, points] as const,
  queryFn: async () => {
    const response = await fetch(`/api/recordings/${recording}/wave?start=${start}&end=${end}&points=${points}`);
    if (!response.ok) throw new Error("no sound yet");
    return new Int8Array(await response.arrayBuffer());
  },
  staleTime: Infinity,
  gcTime: 60_000,
});

/** The address of a word that a search found: its episode, its recording, and the place in that. */
export const hrefOf = (hit: { episode_id: string; recording_id: string; at: number }) =>
  `/episodes/${hit.episode_id}?${new URLSearchParams({ recording: hit.recording_id, from: String(hit.at) })}`;
