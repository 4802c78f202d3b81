/** The best of an episode in so many seconds: proposed, corrected by hand, marked, and made into an edition. */
import { useState } from "react";
import { client, got, type Head } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import type { BenchProps } from "../../page/stage";
import { COLOURS, markAsGood } from "../../page/Selects";
import { Button } from "../../ui/controls";
import { Line, Pick, TextField } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Proposals, Refused } from "./Proposals";
import { openMade, useProposals, useWish } from "./reuse";

type Colour = (typeof COLOURS)[number];

export function Highlights({ episode, head, plan, voices, reveal }: Pick<BenchProps, "episode" | "plan" | "voices" | "reveal"> & { head: Head }) {
  const found = useProposals(head, "highlights");
  const put = useWish(head, "highlights");
  const [name, setName] = useState("Highlights");
  const [colour, setColour] = useState<Colour>("violet");
  const whole = plan?.length ?? 0;
  const wish = found.data?.wish ?? { length: 0, count: 0, pinned: [], refused: [] };
  const proposals = found.data?.proposals ?? [];
  const usual = Math.max(RATE, Math.round(whole / 8 / RATE) * RATE);
  const length = wish.length || usual;
  const make = useEpisodeChange(episode.id, () =>
    got(client.POST("/api/episodes/{episode_id}/editions", { params: { path: { episode_id: episode.id } }, body: { name: name.trim() || "Highlights", copy_of: head.id, ranges: proposals.flatMap((each) => each.ranges) } })),
  );
  const mark = () => {
    const whole = proposals.flatMap(({ ranges }) => ((first, last) => (first && last ? [{ begin: first.begin, end: last.end }] : []))(ranges[0], ranges.at(-1)));
    void markAsGood(head, whole, colour);
  };
  const none = !proposals.length && "Nothing is proposed yet";
  return (
    <>
      <div className="mt-2 flex flex-wrap items-center gap-1.5">
        <NumberField label="Length of the highlights in seconds" unit="s" least={1} most={36_000} step={5} value={Math.round(length / RATE)} onChange={(seconds) => void put({ ...wish, length: seconds * RATE })} className="w-14" />
        <NumberField label="The same as a share of the edition in percent" unit="%" least={1} most={100} value={whole ? Math.round((100 * length) / whole) : 0} onChange={(share) => void put({ ...wish, length: Math.max(RATE, Math.round((whole * share) / 100)) })} className="w-10" />
        <Button look={proposals.length ? "plain" : "strong"} className="ml-auto" onClick={() => void put({ ...wish, length })}>
          Propose
        </Button>
      </div>
      {found.error && <p className="mt-2 leading-snug text-red">{found.error.message}</p>}
      {proposals.length > 0 && (
        <>
          <p className="my-1.5 text-soft">
            {proposals.length} {proposals.length === 1 ? "stretch" : "stretches"}, <span className="font-mono">{clock(found.data?.length ?? 0, 1)}</span> of <span className="font-mono">{clock(length, 1)}</span>
          </p>
          <Proposals {...{ proposals, wish, voices, reveal }} put={(next) => void put({ ...next, length })} pins />
          <Refused wish={wish} put={(next) => void put({ ...next, length })} />
        </>
      )}
      <div className="mt-3 space-y-1.5">
        <Line label="as selects in">
          <Pick label="Colour of the selects" value={colour} options={COLOURS.map((each) => [each, each] as const)} onChange={setColour} />
          <Button why={none} onClick={mark}>
            Mark them
          </Button>
        </Line>
        <div className="flex gap-1.5">
          <TextField label="Name of the edition" value={name} maxLength={200} onChange={setName} className="min-w-0 flex-1" />
          <Button why={none} onClick={() => make.run(undefined, ({ id }) => openMade(id, `Made the edition “${name}”`))}>
            Make an edition
          </Button>
        </div>
      </div>
    </>
  );
}
