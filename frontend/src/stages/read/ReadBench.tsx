import { RotateCcw } from "lucide-react";
import { useState } from "react";
import type { Episode, Recording } from "../../api/client";
import { client, got } from "../../api/client";
import { clock } from "../../api/time";
import { useEpisodeChange, useWork } from "../../desk/change";
import type { BenchProps } from "../../page/stage";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { Pick } from "../../ui/fields";
import { BringText } from "./BringText";
import { Correct, StepThrough } from "./Correct";
import { Find } from "./Find";
import { Spellings } from "./Spellings";

/** How the transcript of a recording stands, and what one can do about it. */
export function TranscriptState({ episode, recording }: { episode: Episode; recording: Recording }) {
  const work = useWork(episode.id);
  const job = episode.jobs.find((each) => each.kind === "transcribe" && each.subject === recording.id && each.state !== "failed");
  const start = useEpisodeChange(episode.id, () =>
    got(client.POST("/api/recordings/{recording_id}/transcript", { params: { path: { recording_id: recording.id } } })),
  );
  const begin = () => start.run();
  if (recording.state !== "ready") return null;
  switch (recording.transcript) {
    case "done":
      return (
        <>
          <p className="text-green">Transcribed</p>
          {!recording.session && <TellApart episode={episode} recording={recording} />}
        </>
      );
    case "failed":
      return (
        <div className="space-y-1.5">
          <Trouble>{recording.transcript_trouble}</Trouble>
          <Button onClick={begin}>
            <RotateCcw size={14} /> Transcribe again
          </Button>
        </div>
      );
    case "none":
      return (
        <Button look="strong" onClick={begin} disabled={start.busy}>
          Transcribe
        </Button>
      );
    case "stopped":
      return (
        <div className="flex items-center justify-between gap-2">
          <span className="text-soft">Transcription stopped part-way; what was read is kept.</span>
          <Button onClick={begin}>Resume</Button>
        </div>
      );
    default:
      return <Working job={job} total={recording.length} onStop={work.stop} verb="Transcribing" />;
  }
}

/** Who says what in a recording of several voices. */
function TellApart({ episode, recording }: { episode: Episode; recording: Recording }) {
  const [count, setCount] = useState("");
  const start = useEpisodeChange(episode.id, () =>
    got(
      client.POST("/api/recordings/{recording_id}/voices", {
        params: { path: { recording_id: recording.id } },
        body: { count: count ? Number(count) : null },
      }),
    ),
  );
  const busy = episode.jobs.some((job) => job.kind === "voices" && job.subject === recording.id && (job.state === "queued" || job.state === "running"));
  return (
    <div className="flex items-center gap-1.5">
      <Button disabled={busy} hint="Finds who says what; can be undone" onClick={() => start.run()}>
        {busy ? "Listening to the voices …" : "Tell voices apart"}
      </Button>
      <Pick label="How many voices" value={count} options={[["", "find how many"], ...["2", "3", "4", "5", "6"].map((each) => [each, `${each} voices`] as const)]} onChange={setCount} />
    </div>
  );
}

export default function ReadBench({ episode, page, head, tokens, voices, edit, reveal }: BenchProps) {
  return (
    <section aria-label="Read">
      {page && head && page.words > 0 && (
        <>
          <Correct {...{ tokens, head, voices, edit, reveal }} />
          <StepThrough {...{ tokens, head, voices, edit, reveal }} />
          <Find showId={episode.show_id} {...{ page, tokens, voices, edit, reveal }} />
          <Spellings episode={episode} />
        </>
      )}
      <Heading aside={`${(page?.words ?? 0).toLocaleString("en")} words`}>Transcripts</Heading>
      {episode.recordings.filter((recording) => !recording.borrowed && recording.kind === "speech" && (recording.transcript !== "none" || recording.placed)).map((recording) => (
        <div key={recording.id} className="mt-2 space-y-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
          <div className="flex justify-between gap-2">
            <b className="truncate font-semibold">{recording.name}</b>
            <span className="font-mono text-xs text-soft">{clock(recording.length)}</span>
          </div>
          <TranscriptState episode={episode} recording={recording} />
          {recording.state === "ready" && <BringText episode={episode} recording={recording} />}
        </div>
      ))}
    </section>
  );
}
