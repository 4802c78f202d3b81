/** How the show has its captions: rules, looks by name, fonts. */
import { useQuery } from "@tanstack/react-query";
import { asItIs, client, got, queryClient } from "../api/client";
import type { SchemaCaptionRulesField as Rules, SchemaLookField as Look } from "../api/schema";
import { useChange } from "../desk/change";

export type { Look, Rules };

const keyOf = (show: string) => ["show captions", show] as const;

export const useShowCaptions = (show_id: string) =>
  useQuery({ queryKey: keyOf(show_id), queryFn: () => got(client.GET("/api/shows/{show_id}/captions", { params: { path: { show_id } } })) });

/** Everything that shows captions asks again. */
const changed = () => Promise.all(["cues", "head"].map((key) => queryClient.invalidateQueries({ queryKey: [key] })));

/** What is kept for the show, as much of it as is given. */
interface House {
  rules?: Rules;
  look?: Look;
  names?: string;
  language?: string;
}

const NOTHING = { rules: null, look: null, names: null, language: null };

export function useHouse(show_id: string) {
  const params = { path: { show_id } };
  const house = useChange([keyOf(show_id)], (body: House) => got(client.PUT("/api/shows/{show_id}/captions", { params, body: { ...NOTHING, ...body } })));
  const save = useChange([keyOf(show_id)], (body: Look) => got(client.POST("/api/shows/{show_id}/looks", { params, body })));
  const remove = useChange([keyOf(show_id)], (name: string) => got(client.DELETE("/api/shows/{show_id}/looks/{name}", { params: { path: { show_id, name } } })));
  const font = useChange([keyOf(show_id)], (file: File) =>
    got(client.POST("/api/shows/{show_id}/fonts", { params: { ...params, query: { name: file.name } }, ...asItIs(file) })),
  );
  return {
    keep: (body: House, then: () => void) => house.run(body, () => void changed().then(then)),
    save: save.run,
    remove: remove.run,
    font: font.run,
  };
}

/** A picture of a few words in a look. */
export const sampleOf = (look: Look, width = 176, height = 99) => `/api/looks/sample?width=${width}&height=${height}&look=${encodeURIComponent(JSON.stringify(look))}`;
