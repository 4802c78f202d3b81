/** Reuse: chapters, the best of an episode, clips, and what can be written about it. All of it is proposed; nothing is done unasked. */
import { useEffect, useState } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { desk, failed } from "../../desk/desk";
import type { BenchProps } from "../../page/stage";
import { Button, Choice, Heading, Progress } from "../../ui/controls";
import { Breaks } from "./Breaks";
import { Chapters } from "./Chapters";
import { Clips } from "./Clips";
import { Highlights } from "./Highlights";
import { useReuse, useShown, type Asked } from "./reuse";
import { ToLength } from "./ToLength";
import { Written } from "./Written";

type Part = "chapters" | "highlights" | "clips" | "length" | "written";

const PARTS: readonly (readonly [Part, string])[] = [
  ["chapters", "Chapters"],
  ["highlights", "Highlights"],
  ["clips", "Clips"],
  ["length", "Length"],
  ["written", "Words"],
];

export default function ReuseBench({ head, ...rest }: BenchProps) {
  return head ? <Bench head={head} {...rest} /> : null;
}

function Bench({ head, ...rest }: BenchProps & { head: Head }) {
  const [part, setPart] = useState<Part>("chapters");
  const [asked, setAsked] = useState<Asked>({ count: 3, again: 0, other_titles: 0 });
  const found = useReuse(head, asked);
  const { episode } = rest;
  const job = episode.jobs.find((each) => each.kind === "meanings" && each.subject === head.id);
  const ready = Boolean(found.data?.ready);
  const shown = ready && (part === "highlights" || part === "clips" || part === "length") ? part : null;
  useEffect(() => {
    useShown.setState({ kind: shown });
    return () => useShown.setState({ kind: null });
  }, [shown]);
  useRead(head.id, found.data?.ready, job);
  if (found.error) return <p className="mt-4 text-red">{found.error.message}</p>;
  return (
    <section aria-label="Reuse">
      <Heading aside={episode.selects.length ? `${episode.selects.length} marked as good` : undefined}>Reuse</Heading>
      <div className="mb-2 grid grid-cols-2 gap-1.5">
        <Button className="col-span-2" hint="What is marked as good in the whole show, to be put in an order (Shift+G)" onClick={() => desk().set({ panel: "gathering" })}>
          Gathering table …
        </Button>
        <Button hint="What is said as an article, to be edited and exported (Shift+A)" onClick={() => desk().set({ panel: "article" })}>
          Article …
        </Button>
        <Button hint="A text that is read over pictures" onClick={() => desk().set({ panel: "film" })}>
          Film of a text …
        </Button>
      </div>
      <Choice tight label="What is reused" value={part} options={PARTS} onChange={setPart} />
      {found.data?.note && <p className="mt-2 leading-snug text-ochre">{found.data.note}</p>}
      {!ready && <Reading job={job} />}
      {part === "chapters" && (
        <>
          <Chapters {...rest} head={head} job={job} ready={ready} />
          <Breaks {...rest} head={head} />
        </>
      )}
      {part === "highlights" && ready && <Highlights {...rest} head={head} />}
      {part === "clips" && ready && <Clips {...rest} head={head} />}
      {part === "length" && ready && <ToLength {...rest} head={head} />}
      {part === "written" && found.data?.ready && <Written episode={episode} found={found.data} reveal={rest.reveal} asked={asked} ask={setAsked} />}
    </section>
  );
}

type Job = Episode["jobs"][number] | undefined;

/** Have it found out what is said, where nobody has yet and nothing went wrong. */
function useRead(edition_id: string, ready: boolean | undefined, job: Job) {
  const idle = !job || job.state === "done";
  useEffect(() => {
    if (ready === false && idle) got(client.POST("/api/editions/{edition_id}/reuse", { params: { path: { edition_id } } })).catch(failed);
  }, [edition_id, ready, idle]);
}

function Reading({ job }: { job: Job }) {
  if (job?.state === "failed") return <p className="mt-2 leading-snug text-red">{job.trouble}</p>;
  return (
    <div className="mt-2 space-y-1.5">
      <p className="leading-snug text-soft">Finding out what is said …</p>
      <Progress label="Sentences that are understood" done={job?.done ?? 0} total={job?.total ?? 0} />
    </div>
  );
}
