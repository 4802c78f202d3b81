/** Channel strips: for each voice of the episode its level, its place, and its chain of processors. */
import { useQueryClient } from "@tanstack/react-query";
import { Wand2 } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { author } from "../../api/author";
import { client, got, type Head, type PageWords } from "../../api/client";
import { keys } from "../../api/queries";
import { useEpisodeChange, useWork } from "../../desk/change";
import { usePlace } from "../../desk/place";
import type { Stave } from "../../page/sources";
import type { BenchProps } from "../../page/stage";
import { indexAt, selected } from "../../page/tokens";
import { Button, Choice, Heading } from "../../ui/controls";
import { Pick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Working } from "../../ui/Working";
import { Chain } from "./Chain";
import { useCompared, type Subject } from "./compare";

type Props = BenchProps & { head: Head; page: PageWords };

/** So much is compared where nothing is selected. */
const COMPARED = 5 * 48_000;

export function Strips(props: Props) {
  const { episode, head, page, tokens, sources, voices, edit } = props;
  const cursor = usePlace((state) => state.cursor);
  const selection = usePlace((state) => state.selection);
  const picked = selected(tokens.list, selection);
  const at = picked?.[0] ?? cursor;
  const passage = page.passages[tokens.passage[indexAt(tokens.list, at)] ?? 0];
  const strips = useMemo(() => stripsOf(page, sources, voices), [page, sources, voices]);
  const nameOf = (strip: string) => strips.find((each) => each.strip === strip)?.name ?? "Track";
  const [chosen, setChosen] = useState<string | null>(null);
  const stave = sources.get(passage?.recording ?? "")?.staves.find((each) => each.voice === passage?.voice);
  const speaking = stave && stripOf(stave);
  const strip = [selection?.track, chosen, speaking, strips[0]?.strip].find((each) => each && strips.some((known) => known.strip === each));
  const track = strip?.split("/")[0];
  const known = head.tracks.find((each) => each.track === strip);
  const [here, setHere] = useState(false);
  const range = here && picked ? picked : null;
  const place = tokens.list[indexAt(tokens.list, at)]?.t ?? -1;
  const patch = head.chains_here.find((each) => each.track === track && each.recording === passage?.recording && each.start <= place && place < each.end);
  const chain = useMemo(() => (range ? patch?.chain : undefined) ?? known?.chain ?? [], [known, patch, range]);
  const bleeped = head.bleeps.some((each) => each.track === track && each.recording === passage?.recording && each.start <= place && place < each.end);
  const end = picked?.[1] ?? at + COMPARED;
  const subject = useMemo<Subject | null>(() => (strip ? { edition: head.id, track: strip, without: -1, begin: tokens.list[indexAt(tokens.list, at)]?.at ?? 0, end, state: JSON.stringify(chain) } : null), [head.id, strip, at, end, chain, tokens]);
  const offer = useCompared((state) => state.offer);
  useEffect(() => {
    offer(subject && chain.length ? subject : null);
    return () => offer(null);
  }, [offer, subject, chain.length]);
  const stop = useCompared((state) => state.stop);
  useEffect(() => () => stop(), [stop]);

  if (!strip || !track || !subject) return null;
  return (
    <>
      <Heading aside={known && !known.processed ? "being made …" : undefined}>Voices</Heading>
      <div className="flex items-center gap-1.5">
        <Pick label="Voice" value={strip} options={strips.map((each) => [each.strip, each.name] as const)} onChange={setChosen} className="min-w-0 flex-1" />
        <NumberField label={`Level of ${nameOf(strip)} in decibels`} unit="dB" value={known?.decibels ?? 0} least={-120} most={24} digits={1} step={0.5} className="w-12" onChange={(decibels) => edit.operate({ kind: "track level", track: strip, decibels })} />
        <NumberField label={`Place of ${nameOf(strip)}, left to right`} title="-100 is left, 100 right" unit="L–R" value={100 * (known?.pan ?? 0)} least={-100} most={100} step={5} className="w-11" onChange={(place) => edit.operate({ kind: "pan", track: strip, place: place / 100 })} />
      </div>
      <Processing episode={episode} head={head} />
      {picked && (
        <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
          <Choice
            label="What the chain is for"
            value={here ? "selection" : "track"}
            options={[
              ["track", strip === track ? "whole track" : "whole voice"],
              ["selection", "selected words"],
            ]}
            onChange={(value) => setHere(value === "selection")}
          />
          {here && patch && (
            <Button className="!py-0.5 text-xs" onClick={() => edit.operate({ kind: "processors here", track, begin: picked[0], end: picked[1], chain: null, told: "" })}>
              as the rest
            </Button>
          )}
          <Button className="!py-0.5 text-xs" hint="A tone instead of this voice, and [bleep] in captions" onClick={() => edit.operate({ kind: "bleep", track, begin: picked[0], end: picked[1], on: !bleeped })}>
            {bleeped ? "Take the bleep off" : "Bleep"}
          </Button>
        </div>
      )}
      <Chain {...{ episode, head, edit, strip, track, chain, subject, range }} name={nameOf(strip)} others={strips.filter((each) => each.strip !== strip).map((each) => [each.strip, each.name] as const)} />
      {strips.length > 1 && <Even episode={episode.id} head={head} />}
    </>
  );
}

interface Strip {
  /** The recording, or a voice within it. */
  strip: string;
  name: string;
}

const stripOf = ({ recording, voice, told }: Stave) => (told && voice ? `${recording}/${voice}` : recording);

/** A strip for each track, and for each voice that was told apart within one; that one has a strip as a whole, too. */
function stripsOf(page: PageWords, sources: Props["sources"], voices: Props["voices"]): Strip[] {
  const staves = [...new Set(page.passages.map((each) => each.recording))].flatMap((name) => sources.get(name ?? "")?.staves ?? []);
  const found = staves.map((stave) => ({ strip: stripOf(stave), name: voices.get(stave.voice ?? "")?.shown ?? sources.get(stave.recording)?.name ?? "Track" }));
  const whole = staves.filter((stave) => stave.told).map(({ recording }) => ({ strip: recording, name: `${sources.get(recording)?.name ?? "Track"}, all voices` }));
  return [...found, ...whole].filter((each, index, all) => all.findIndex((other) => other.strip === each.strip) === index);
}

/** Sound that is being processed or measured. */
function Processing({ episode, head }: Pick<Props, "episode" | "head">) {
  const work = useWork(episode.id);
  const jobs = episode.jobs.filter((job) => ["process", "even"].includes(job.kind) && job.subject === head.id && (job.state === "running" || job.state === "queued"));
  return jobs.map((job) => (
    <div key={job.id} className="mt-1.5">
      <Working job={job} total={job.total} verb={job.kind === "even" ? "Measuring voices" : "Processing"} onStop={work.stop} />
    </div>
  ));
}

function Even({ episode, head }: { episode: string; head: Head }) {
  const queries = useQueryClient();
  const even = useEpisodeChange(episode, () => got(client.POST("/api/editions/{edition_id}/even", { params: { path: { edition_id: head.id } }, body: author() })));
  return (
    <Button className="mt-2 w-full" hint="Measures each voice by its own words and sets the levels of the tracks" onClick={() => even.run(undefined, () => void queries.invalidateQueries({ queryKey: keys.head(head.id) }))}>
      <Wand2 size={14} /> Make all voices equally loud
    </Button>
  );
}
