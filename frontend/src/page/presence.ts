/** Who else has an edition open, and where on its page they are. */
import { useQuery } from "@tanstack/react-query";
import { author } from "../api/author";
import { client, got } from "../api/client";
import type { SchemaPresentOut } from "../api/schema";
import { useDesk } from "../desk/desk";
import { here } from "../desk/place";

export type Present = SchemaPresentOut;

const EVERY = 4_000;
const NOBODY: readonly Present[] = [];

/** The others; this window says where it is by asking. Without accounts there are none. */
export function useOthers(edition_id: string): readonly Present[] {
  const team = useDesk((state) => state.team);
  const found = useQuery({
    queryKey: ["others", edition_id],
    queryFn: () => got(client.POST("/api/editions/{edition_id}/here", { params: { path: { edition_id } }, body: { at: Math.max(0, Math.round(here().cursor)), window: author().window } })),
    enabled: team && edition_id !== "",
    refetchInterval: EVERY,
  });
  return found.data?.others ?? NOBODY;
}
