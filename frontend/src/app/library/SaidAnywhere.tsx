/** Where words were said, in all shows; a hit opens its episode at the word. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { Link } from "wouter";
import { client, got } from "../../api/client";
import { hrefOf } from "../../api/queries";
import { clock } from "../../api/time";
import { Trouble } from "../../ui/controls";

export function SaidAnywhere({ words }: { words: string }) {
  const wanted = useDeferredValue(words);
  const found = useQuery({
    queryKey: ["said", wanted],
    queryFn: () => got(client.GET("/api/search", { params: { query: { words: wanted } } })),
    placeholderData: keepPreviousData,
  });
  if (found.isError) return <Trouble>{found.error.message}</Trouble>;
  const hits = found.data?.hits ?? [];
  if (found.data && hits.length === 0) return <p className="text-soft">Nobody said “{words}” in anything that is transcribed.</p>;
  return (
    <ul aria-label="Where it was said" className="divide-y divide-line border-y border-line">
      {hits.map((hit) => (
        <li key={`${hit.recording_id}-${hit.at}`}>
          <Link href={hrefOf(hit)} className="block px-1 py-2.5 hover:bg-side">
            <span className="flex items-baseline justify-between gap-3 text-soft">
              <span className="truncate">
                {hit.show} / <b className="font-semibold text-ink">{hit.episode}</b>
              </span>
              <span className="font-mono text-xs">{clock(hit.at)}</span>
            </span>
            <span className="font-serif text-[17px]">
              {hit.before} <mark className="rounded-sm bg-pick px-0.5 text-ink">{hit.words}</mark> {hit.after}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
