/** The house style of the show's pictures. */
import { useQuery } from "@tanstack/react-query";
import { asItIs, client, got, queryClient } from "../api/client";
import type { SchemaStyleOut as Style } from "../api/schema";
import { useChange } from "../desk/change";

export type { Style };

const keyOf = (show: string) => ["style", show] as const;

export const useStyle = (show_id: string) => useQuery({ queryKey: keyOf(show_id), queryFn: () => got(client.GET("/api/shows/{show_id}/style", { params: { path: { show_id } } })) }).data;

/** Everything that is drawn in it asks again. */
const changed = () => Promise.all(["head", "plan"].map((key) => queryClient.invalidateQueries({ queryKey: [key] })));

export function useStyleChange(show_id: string) {
  const params = { path: { show_id } };
  const keep = useChange([keyOf(show_id)], (body: Omit<Style, "logo">) => got(client.PUT("/api/shows/{show_id}/style", { params, body })));
  const logo = useChange([keyOf(show_id)], (file: File) => got(client.POST("/api/shows/{show_id}/logo", { params: { ...params, query: { name: file.name } }, ...asItIs(file) })));
  const bare = useChange([keyOf(show_id)], () => got(client.DELETE("/api/shows/{show_id}/logo", { params })));
  const picture = useChange([keyOf(show_id)], (file: File) => got(client.POST("/api/shows/{show_id}/house-pictures", { params: { ...params, query: { name: file.name } }, ...asItIs(file) })));
  return {
    /** Takes in a picture that lies behind a framing; gives its digest. */
    picture: (file: File, then: (digest: string) => void) => picture.run(file, (taken) => then(taken.digest)),
    keep: (style: Style) => keep.run(style, () => void changed()),
    logo: (file: File) => logo.run(file, () => void changed()),
    noLogo: () => bare.run(undefined, () => void changed()),
  };
}
