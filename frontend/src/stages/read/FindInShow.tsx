import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { client, got } from "../../api/client";
import type { SchemaSaidOut as Hit } from "../../api/schema";
import { clock } from "../../api/time";
import { desk, failed } from "../../desk/desk";
import { Button } from "../../ui/controls";
import { TextField, Tick } from "../../ui/fields";
import { hrefOf } from "../../api/queries";
import { PAGES, readAgain } from "../../desk/change";

interface Wanted {
  showId: string;
  words: string;
  whole: boolean;
  voice: string;
}

const keyOf = (hit: Hit) => `${hit.recording_id} ${hit.at}`;

/** Words in all episodes of the show: each place with what is around it, retyped where it is ticked. */
export function FindInShow({ showId, words, whole, voice }: Wanted) {
  const [by, setBy] = useState("");
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const wanted = words.trim();
  const found = useQuery({
    queryKey: ["found", showId, wanted, whole, voice],
    queryFn: () => got(client.GET("/api/search", { params: { query: { words: wanted, show: showId, whole, voice } } })),
    enabled: wanted !== "",
  });
  const hits = found.data?.hits ?? [];
  const chosen = hits.filter((hit) => !left.has(keyOf(hit)));
  const toggle = (hit: Hit) => {
    const next = new Set(left);
    if (!next.delete(keyOf(hit))) next.add(keyOf(hit));
    setLeft(next);
  };
  const retype = async () => {
    const body = { hits: chosen.map(({ recording_id, at, end, words: said }) => ({ recording_id, at, end, words: said })), text: by.trim() };
    try {
      const { places, episodes, missed } = await got(client.POST("/api/search/retype", { body }));
      const where = `Retyped ${places} ${places === 1 ? "place" : "places"} in ${episodes} ${episodes === 1 ? "episode" : "episodes"}`;
      desk().say(missed ? `${where}; ${missed} read otherwise by now and were left` : `${where}. Each edition can undo its own.`);
    } catch (error) {
      failed(error);
    }
    void readAgain([...PAGES, ["found"]]);
  };
  if (!wanted) return null;
  if (found.isError) return <p className="text-red">{found.error.message}</p>;
  if (!hits.length) return <p className="text-soft">{found.isPending ? "Looking …" : "Nobody says that in this show."}</p>;
  return (
    <>
      <div className="flex gap-1.5">
        <TextField label="Retype in the show as" value={by} placeholder="Retype as" onChange={setBy} className="w-full" />
        <Button className="whitespace-nowrap" why={!by.trim() ? "Write the new text first" : !chosen.length && "Tick a place first"} hint="All that are ticked; one step in each edition" onClick={() => void retype()}>
          Retype {chosen.length}
        </Button>
      </div>
      <ul className="max-h-64 overflow-y-auto rounded-md border border-line bg-paper" aria-label="Places found in the show">
        {hits.map((hit) => (
          <li key={keyOf(hit)} className="flex items-baseline gap-1.5 border-b border-line px-2 py-1 last:border-0">
            <Tick checked={!left.has(keyOf(hit))} label={`Retype “${hit.words}” in ${hit.episode} at ${clock(hit.at)}`} onChange={() => toggle(hit)} />
            <Link href={hrefOf(hit)} className="min-w-0 flex-1 hover:text-blue">
              <span className="block truncate font-serif">
                <span className="text-soft">{hit.before.split(" ").slice(-2).join(" ")}</span> <b>{hit.words}</b> <span className="text-soft">{hit.after}</span>
              </span>
              <span className="block truncate text-xs text-soft">
                {hit.episode}, {clock(hit.at)}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </>
  );
}
