/** What the Sound stage asks the server. */
import { useQuery } from "@tanstack/react-query";
import { client, got } from "../../api/client";
import type { SchemaProcessorField } from "../../api/schema";

export type Processor = SchemaProcessorField;

export const useProcessors = () => useQuery({ queryKey: ["processors"], queryFn: () => got(client.GET("/api/processors")), staleTime: Infinity });

export const wayKey = (show_id: string) => ["way", show_id] as const;

export const useWay = (show_id: string) => useQuery({ queryKey: wayKey(show_id), queryFn: () => got(client.GET("/api/shows/{show_id}/sound", { params: { path: { show_id } } })) });

export const useSpectrum = (edition_id: string, track: string, state: string, enabled: boolean) =>
  useQuery({
    queryKey: ["spectrum", edition_id, track, state],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/spectrum", { params: { path: { edition_id }, query: { track } } })),
    enabled,
    placeholderData: (known) => known,
  });

export const useSounds = () => useQuery({ queryKey: ["sounds"], queryFn: () => got(client.GET("/api/sounds")), staleTime: Infinity });
