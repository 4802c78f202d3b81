/** Where words were said, in all shows; a hit opens its episode at the word. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useEffect } from "react";
import { Link } from "wouter";
import { client, got } from "../../api/client";
import { hrefOf } from "../../api/queries";
import type { components } from "../../api/schema";
import { clock } from "../../api/time";
import { failed } from "../../desk/desk";
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
  return (
    <>
      {found.data && hits.length === 0 && <p className="text-soft">Nobody said “{words}” in these words in anything that is transcribed.</p>}
      {hits.length > 0 && <Hits label="Where it was said" hits={hits} />}
      <Meant words={wanted} exact={hits} />
    </>
  );
}

type Hit = components["schemas"]["SaidOut"];

/** Where something like it was said in other words. */
function Meant({ words, exact }: { words: string; exact: readonly Hit[] }) {
  const found = useQuery({
    queryKey: ["meant", words],
    queryFn: () => got(client.GET("/api/search/meaning", { params: { query: { words } } })),
    placeholderData: keepPreviousData,
    refetchInterval: ({ state }) => (state.data?.waiting ? 2000 : false),
  });
  const waiting = found.data?.waiting ?? 0;
  useEffect(() => {
    if (waiting) got(client.POST("/api/search/index")).catch(failed);
  }, [waiting]);
  // What has the words themselves stands above already.
  const hits = (found.data?.hits ?? []).filter((hit) => !exact.some((each) => each.recording_id === hit.recording_id && each.at < hit.end && each.end > hit.at));
  if (!hits.length && !waiting) return null;
  return (
    <section className="mt-5">
      <h3 className="mb-1.5 font-semibold">In other words</h3>
      {waiting > 0 && (
        <p role="status" className="mb-1.5 text-soft">
          {waiting === 1 ? "One recording has" : `${waiting} recordings have`} yet to be read for what they mean.
        </p>
      )}
      {hits.length > 0 && <Hits label="What means something like it" hits={hits} />}
    </section>
  );
}

function Hits({ label, hits }: { label: string; hits: readonly Hit[] }) {
  return (
    <ul aria-label={label} className="divide-y divide-line border-y border-line">
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
              {hit.before || hit.after ? (
                <>
                  {hit.before} <mark className="rounded-sm bg-pick px-0.5 text-ink">{hit.words}</mark> {hit.after}
                </>
              ) : (
                hit.words
              )}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}
