/** Clips: short stretches that begin with a hook and end with a point; each becomes an edition of its own, and a film. */
import { useState } from "react";
import { author } from "../../api/author";
import { client, got, type Head } from "../../api/client";
import { useEpisodeChange } from "../../desk/change";
import type { BenchProps } from "../../page/stage";
import { Button } from "../../ui/controls";
import { Line, Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Proposals, Refused } from "./Proposals";
import { openMade, useProposals, useWish, type Proposal } from "./reuse";

type Shape = "upright" | "square" | "tall" | "wide" | "as recorded";

const SHAPES: readonly (readonly [Shape, string])[] = [
  ["upright", "upright 9:16"],
  ["tall", "tall 4:5"],
  ["square", "square 1:1"],
  ["wide", "wide 16:9"],
  ["as recorded", "as recorded"],
];

/** What a clip is called until somebody names it: how it begins. */
const beginning = ({ text }: Proposal) => text.split(/\s+/).slice(0, 6).join(" ").replace(/[.,;:!?…]+$/, "");

export function Clips({ episode, head, voices, reveal }: Pick<BenchProps, "episode" | "voices" | "reveal"> & { head: Head }) {
  const found = useProposals(head, "clips");
  const put = useWish(head, "clips");
  const [shape, setShape] = useState<Shape>("upright");
  const [films, setFilms] = useState(true);
  const [dressed, setDressed] = useState(true);
  const [names, setNames] = useState<Readonly<Record<number, string>>>({});
  const wish = found.data?.wish ?? { length: 0, count: 0, pinned: [], refused: [] };
  const count = wish.count || 4;
  const proposals = found.data?.proposals ?? [];
  const nameOf = (each: Proposal) => (names[each.place.at] ?? beginning(each)).trim() || beginning(each);
  const send = (clips: readonly { name: string; ranges: Proposal["ranges"] }[]) =>
    got(client.POST("/api/editions/{edition_id}/clips", { params: { path: { edition_id: head.id } }, body: { clips: [...clips], shape, films, dressed, ...author() } }));
  const make = useEpisodeChange(episode.id, () => send(proposals.map((each) => ({ name: nameOf(each), ranges: each.ranges }))));
  const reel = useEpisodeChange(episode.id, () => send([{ name: "Reel", ranges: proposals.flatMap((each) => each.ranges) }]));
  const made = ({ editions }: { editions: readonly string[] }) => {
    const what = editions.length === 1 ? "Made an edition" : `Made ${editions.length} editions`;
    if (editions[0]) openMade(editions[0], films ? `${what}; the film of each is on its way, see Export` : what);
  };
  const none = !proposals.length && "Nothing is proposed yet";
  return (
    <>
      <div className="mt-2 flex items-center gap-1.5">
        <NumberField label="Number of clips" unit="clips of 15 to 60 s" least={1} most={40} value={count} onChange={(wanted) => void put({ ...wish, count: wanted })} className="w-10" />
        <Button look={proposals.length ? "plain" : "strong"} className="ml-auto" onClick={() => void put({ ...wish, count })}>
          Propose
        </Button>
      </div>
      {found.error && <p className="mt-2 leading-snug text-red">{found.error.message}</p>}
      {wish.count > 0 && proposals.length < wish.count && <p className="mt-1.5 leading-snug text-ochre">{proposals.length ? `There is room for ${proposals.length} here` : "Nothing here is a clip by itself"}: each takes at least 15 s and ends with its sentence.</p>}
      {proposals.length > 0 && (
        <div className="mt-2 space-y-2">
          <Proposals {...{ proposals, wish, voices, reveal }} put={(next) => void put({ ...next, count })} />
          <Refused wish={wish} put={(next) => void put({ ...next, count })} />
          <fieldset className="space-y-1">
            <legend className="mb-1 text-soft">Their names</legend>
            {proposals.map((each, number) => (
              <TextField key={each.place.at} label={`Name of clip ${number + 1}`} value={names[each.place.at] ?? beginning(each)} maxLength={200} onChange={(name) => setNames({ ...names, [each.place.at]: name })} className="w-full" />
            ))}
          </fieldset>
        </div>
      )}
      <div className="mt-3 space-y-1.5">
        <Line label="in the shape">
          <Pick label="Shape of the clips" value={shape} options={SHAPES} onChange={setShape} />
        </Line>
        <label className="flex items-center gap-1.5">
          <Tick checked={dressed} onChange={setDressed} /> its name as a title, and the closing card
        </label>
        <label className="flex items-center gap-1.5">
          <Tick checked={films} onChange={setFilms} /> export each as MP4 with captions burned in
        </label>
        <div className="flex flex-wrap gap-1.5">
          <Button look={proposals.length ? "strong" : "plain"} why={none || (make.busy && "They are being made")} onClick={() => make.run(undefined, made)}>
            Make {proposals.length || ""} editions
          </Button>
          <Button why={none} hint="One edition of all of them" onClick={() => reel.run(undefined, made)}>
            Make one reel
          </Button>
        </div>
      </div>
    </>
  );
}
