/** Who is signed in, where Jaskel has accounts; on a Jaskel of one person everybody is. */
import { useQuery } from "@tanstack/react-query";
import { signedInAs } from "./author";
import { client, got, queryClient } from "./client";
import type { SchemaMeOut as Me } from "./schema";

const KEY = ["me"] as const;

export type { Me };

export const useMe = () => useQuery({ queryKey: KEY, queryFn: ask, staleTime: Infinity });

async function ask(): Promise<Me> {
  const me = await got(client.GET("/api/me"));
  signedInAs(me.name);
  return me;
}

/** Somebody else sits here now: nothing of what was known before is. */
export function arrived(me: Me) {
  forget();
  signedInAs(me.name);
  queryClient.setQueryData(KEY, me);
}

const forget = () => queryClient.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== KEY[0] });

/** Sign out here, or in every browser; the page asks for a password again. */
export async function leave(everywhere = false) {
  await got(everywhere ? client.POST("/api/sign-out-everywhere") : client.POST("/api/sign-out"));
  await queryClient.invalidateQueries({ queryKey: KEY });
  forget();
}
