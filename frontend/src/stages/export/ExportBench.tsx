import type { Head, Job } from "../../api/client";
import { useForms } from "../../api/queries";
import { useWork } from "../../desk/change";
import { useMay } from "../../desk/rights";
import type { BenchProps } from "../../page/stage";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { Destinations } from "./Destinations";
import { Finished } from "./Finished";
import { LastListen } from "./LastListen";
import { SingleFiles } from "./SingleFiles";
import { Telling } from "./Telling";

export default function ExportBench({ episode, head, tokens, reveal }: BenchProps) {
  return head ? <Bench {...{ episode, head, tokens, reveal }} /> : null;
}

function Bench({ episode, head, tokens, reveal }: Pick<BenchProps, "episode" | "tokens" | "reveal"> & { head: Head }) {
  const work = useWork(episode.id);
  const [edits, exports] = [useMay("edit"), useMay("export")];
  const forms = useForms().data?.forms ?? [];
  const edition = (id: string) => (id === head.id ? "" : ` of ${episode.editions.find((each) => each.id === id)?.name ?? "an edition"}`);
  const called = (job: Job) => `${job.destination || (forms.find((each) => each.key === job.form)?.label ?? job.form)}${edition(job.subject)}`;
  const jobs = episode.jobs.filter((job) => job.kind === "export" && job.state !== "cancelled");
  const waiting = jobs.filter((job) => job.state === "queued").length;
  return (
    <section aria-label="Export">
      <Destinations {...{ episode, head, reveal }} />
      {jobs.length > 0 && (
        <ul aria-label="Being exported" className="mt-2 space-y-2">
          {jobs.map((job) => (
            <li key={job.id} className="space-y-1 rounded-md border border-line bg-paper px-2.5 py-2">
              {job.state === "failed" ? (
                <>
                  <b className="font-semibold">{called(job)}</b>
                  <Trouble>{job.trouble}</Trouble>
                  <Button onClick={() => work.again(job.id)}>Try again</Button>
                </>
              ) : job.state === "paused" ? (
                <>
                  <p>
                    {called(job)} <span className="text-soft">is paused</span>
                  </p>
                  <div className="flex gap-1.5">
                    <Button onClick={() => work.again(job.id)}>Resume</Button>
                    <Button onClick={() => work.stop(job.id)}>Cancel</Button>
                  </div>
                </>
              ) : (
                <>
                  <Working job={job} total={job.total} verb={`Writing ${called(job)}`} counts="work" onStop={work.stop} />
                  {!job.cancel && (
                    <div className="flex gap-1.5">
                      <Button look="quiet" className="!px-1 !py-0" aria-label={`Pause: ${called(job)}`} hint="It begins again when you resume it" onClick={() => work.pause(job.id)}>
                        Pause
                      </Button>
                      {job.state === "queued" && waiting > 1 && (
                        <Button look="quiet" className="!px-1 !py-0" aria-label={`Put first: ${called(job)}`} onClick={() => work.first(job.id)}>
                          Put first
                        </Button>
                      )}
                    </div>
                  )}
                </>
              )}
            </li>
          ))}
        </ul>
      )}
      {exports && <LastListen {...{ head, reveal }} />}
      <Heading>Single files</Heading>
      <details>
        <summary className="cursor-pointer text-soft hover:text-ink">Every form by itself</summary>
        <div className="mt-1.5">
          <SingleFiles {...{ episode, head, tokens, forms }} />
        </div>
      </details>
      <Finished {...{ episode, head, forms }} />
      {edits && <Telling episode={episode} />}
    </section>
  );
}
