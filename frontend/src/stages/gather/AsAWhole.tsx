import { ArrowDown, ArrowUp, Columns2, Replace } from "lucide-react";
import { useMemo, useState } from "react";
import { client, got, type Episode, type PageWords, type Recording } from "../../api/client";
import { useEpisodeChange } from "../../desk/change";
import type { Edit } from "../../page/edit";
import { Button, Trouble } from "../../ui/controls";
import { Pick } from "../../ui/fields";

const KINDS = [
  ["speech", "speech"],
  ["music", "music"],
  ["video", "other video"],
  ["still", "still picture"],
] as const;
type Kind = Exclude<Recording["kind"], "pickup">;

interface AsAWholeProps {
  episode: Episode;
  recording: Recording;
  edit: Edit;
  page: PageWords | undefined;
}

/** What a recording is for, its place among the others, and another file in its place. */
export function AsAWhole({ episode, recording, edit, page }: AsAWholeProps) {
  const change = useEpisodeChange(episode.id, (kind: Kind) =>
    got(client.PATCH("/api/recordings/{recording_id}", { params: { path: { recording_id: recording.id } }, body: { name: null, language: null, kind, care: null, parted: null } })),
  );
  const [replacing, setReplacing] = useState(false);
  const possible = KINDS.filter(([kind]) => (recording.kind === "still" ? kind === "still" : kind !== "still" && (kind === "video" ? recording.picture : recording.sound_codec)));
  return (
    <>
      <div className="flex items-center gap-1.5">
        <Pick label={`What ${recording.name} is`} value={recording.kind as Kind} disabled={possible.length < 2 || recording.session !== null} options={possible} onChange={(kind) => change.run(kind)} className="text-xs" />
        <Order name={recording.session ?? recording.id} called={recording.name} edit={edit} page={page} />
        {recording.placed && !recording.session && (
          <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Replace ${recording.name}`} hint="Another file in its place" onClick={() => setReplacing(!replacing)}>
            <Replace size={13} />
          </Button>
        )}
      </div>
      {recording.channels === 2 && recording.placed && !recording.session && <Sides episode={episode} recording={recording} />}
      {replacing && <ReplaceBy episode={episode} recording={recording} done={() => setReplacing(false)} />}
      <Refused episode={episode} recording={recording} />
    </>
  );
}

/** Two voices on left and right become the tracks of a session. */
function Sides({ episode, recording }: { episode: Episode; recording: Recording }) {
  const part = useEpisodeChange(episode.id, () => got(client.POST("/api/recordings/{recording_id}/sides", { params: { path: { recording_id: recording.id } } })));
  const job = episode.jobs.findLast((each) => each.kind === "sides" && each.subject === recording.id);
  if (job?.state === "queued" || job?.state === "running") return <p className="text-soft">Parting left and right …</p>;
  return (
    <>
      {job?.state === "failed" && <Trouble>{job.trouble}</Trouble>}
      <Button look="quiet" className="!px-1.5 !py-0.5 text-xs" hint="Two voices, one on each side, become the tracks of a session" onClick={() => part.run(undefined)}>
        <Columns2 size={13} /> Part left and right
      </Button>
    </>
  );
}

interface Block {
  name: string;
  ranges: { begin: number; end: number }[];
}

/** The recordings of a page in order of their first word, each with all that stands of it. */
function blocks(page: PageWords | undefined): Block[] {
  const found = new Map<string, Block>();
  for (const { recording, tokens } of page?.passages ?? []) {
    if (recording === null) continue;
    const block = found.get(recording) ?? { name: recording, ranges: [] };
    found.set(recording, block);
    const last = tokens.at(-1);
    if (tokens[0] && last) block.ranges.push({ begin: tokens[0].at, end: last.at + last.len });
  }
  return [...found.values()];
}

/** Moves all that stands of a recording before the one above it, or behind the one below. */
export function Order({ name, called, edit, page }: { name: string; called: string; edit: Edit; page: PageWords | undefined }) {
  const order = useMemo(() => blocks(page), [page]);
  const index = order.findIndex((block) => block.name === name);
  if (order.length < 2 || index < 0) return null;
  const move = (way: 1 | -1) => {
    const beside = order[index + way];
    const ranges = order[index]?.ranges;
    if (!beside || !ranges) return;
    edit.operate({ kind: "move", ranges, to: way < 0 ? (beside.ranges[0]?.begin ?? 0) : (beside.ranges.at(-1)?.end ?? 0) });
  };
  return (
    <>
      <Button look="quiet" className="!px-1 !py-0.5" why={index === 0 && "It is already the first"} aria-label={`${called} earlier`} hint="Before the one above" onClick={() => move(-1)}>
        <ArrowUp size={13} />
      </Button>
      <Button look="quiet" className="!px-1 !py-0.5" why={index === order.length - 1 && "It is already the last"} aria-label={`${called} later`} hint="Behind the one below" onClick={() => move(1)}>
        <ArrowDown size={13} />
      </Button>
    </>
  );
}

/** Choose the recording that takes the place of this one; where both are the same sound, everything stays. */
function ReplaceBy({ episode, recording, done }: { episode: Episode; recording: Recording; done: () => void }) {
  const [by, setBy] = useState("");
  const others = episode.recordings.filter((other) => other.id !== recording.id && other.state === "ready" && other.sound_codec && !other.session && !other.borrowed);
  const replace = useSubstitute(episode, recording);
  if (!others.length) return <p className="leading-snug text-soft">Add the other file first, then choose it here.</p>;
  return (
    <div className="flex gap-1.5">
      <Pick label={`What replaces ${recording.name}`} value={by} options={[["", "Replace with …"], ...others.map((other) => [other.id, other.name] as const)]} onChange={setBy} className="min-w-0 flex-1" />
      <Button why={!by && "Choose a recording to take its place"} hint="Cuts and words stay where both are the same sound" onClick={() => replace.run({ by, whole: false }, done)}>
        Replace
      </Button>
    </div>
  );
}

const useSubstitute = (episode: Episode, recording: Recording) =>
  useEpisodeChange(episode.id, (body: { by: string; whole: boolean }) =>
    got(client.POST("/api/recordings/{recording_id}/substitute", { params: { path: { recording_id: recording.id } }, body })),
  );

/** How comparing the two files ended, where they are not the same sound. */
function Refused({ episode, recording }: { episode: Episode; recording: Recording }) {
  const job = episode.jobs.findLast((each) => each.kind === "substitute" && each.subject === recording.id);
  const replace = useSubstitute(episode, recording);
  if (!job) return null;
  if (job.state === "queued" || job.state === "running") return <p className="text-soft">Comparing the two files …</p>;
  if (job.state !== "failed") return null;
  return (
    <div className="space-y-1.5">
      <Trouble>{job.trouble}</Trouble>
      {job.other && (
        <Button onClick={() => replace.run({ by: job.other ?? "", whole: true })}>Replace completely</Button>
      )}
    </div>
  );
}

/** What a picture or silent video shows. */
export function Thumbnail({ recording }: { recording: Recording }) {
  const source = `/api/recordings/${recording.id}/picture`;
  const look = "max-h-28 w-full rounded bg-side object-contain";
  return recording.kind === "still" ? <img src={source} alt={recording.name} className={look} /> : <video src={source} muted controls preload="metadata" className={look} />;
}
