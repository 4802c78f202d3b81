/** To an exact length: rests are eased first, then sentences are proposed that are least missed; each is judged, nothing is hurried. */
import { useState } from "react";
import type { Head } from "../../api/client";
import { clock, RATE, ticksOf } from "../../api/time";
import type { BenchProps } from "../../page/stage";
import { Button } from "../../ui/controls";
import { TextField } from "../../ui/fields";
import { Proposals, Refused } from "./Proposals";
import { useProposals, useWish } from "./reuse";

export function ToLength({ head, voices, reveal, edit }: Pick<BenchProps, "voices" | "reveal" | "edit"> & { head: Head }) {
  const found = useProposals(head, "length");
  const put = useWish(head, "length");
  const wish = found.data?.wish ?? { length: 0, count: 0, pinned: [], refused: [] };
  const wanted = wish.length || head.target;
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? (wanted ? clock(wanted) : "");
  const length = ticksOf(text);
  const { rests, proposals = [] } = found.data ?? {};
  const spared = rests?.spared ?? 0;
  const gone = proposals.reduce((sum, each) => sum + each.end - each.begin, 0);
  const now = head.running_time;
  const asked = wish.length > 0;
  const strike = (ranges: readonly { begin: number; end: number }[]) => edit.strike(ranges.map(({ begin, end }) => [begin, end] as const));
  return (
    <>
      <form
        className="mt-2 flex items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          if (length) void put({ ...wish, length });
        }}
      >
        <span className="font-mono">{clock(now)}</span> becomes
        <TextField label="Length it is to have" value={text} placeholder="4:30" wrong={length === null} onChange={setTyped} className="w-20 font-mono text-xs" />
        <Button type="submit" className="ml-auto" look={asked ? "plain" : "strong"} why={!length && "Write a length first, such as 40:00"}>
          Propose
        </Button>
      </form>
      {found.error && <p className="mt-2 leading-snug text-red">{found.error.message}</p>}
      {asked && now <= wish.length + RATE / 2 && <p className="mt-2 leading-snug text-soft">It is no longer than that. Nothing has to go.</p>}
      {rests && spared > 0 && (
        <section aria-label="Rests that are eased" className="mt-2 rounded-md border border-line bg-paper px-2 py-1.5">
          <p className="leading-snug">
            {rests.ranges.length} {rests.ranges.length === 1 ? "rest becomes" : "rests become"} no longer than {(rests.becomes / RATE).toFixed(2)} s: <span className="font-mono">{clock(spared, 1)}</span> less.
          </p>
          <Button className="mt-1" onClick={() => strike(rests.ranges)}>
            Ease the rests
          </Button>
        </section>
      )}
      {proposals.length > 0 && (
        <>
          <p className="my-1.5 leading-snug text-soft">
            What is least missed of the rest: {proposals.length} {proposals.length === 1 ? "place" : "places"}, <span className="font-mono">{clock(gone, 1)}</span>
          </p>
          <Proposals {...{ proposals, wish, voices, reveal }} put={(next) => void put(next)} going />
          <Refused wish={wish} put={(next) => void put(next)} going />
          <Button className="mt-2 w-full" look="strong" onClick={() => strike(proposals.flatMap((each) => each.ranges))}>
            Strike {proposals.length === 1 ? "it" : `all ${proposals.length}`}
          </Button>
        </>
      )}
    </>
  );
}
