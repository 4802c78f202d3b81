import { Download, Trash2 } from "lucide-react";
import { client, got, type Episode, type Head } from "../../api/client";
import { useChange } from "../../api/queries";
import { bytes, clock } from "../../api/time";
import { desk } from "../../app/desk";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";

type Form = "wav" | "mp3" | "mp4" | "srt" | "vtt" | "txt" | "md";

const FORMS: readonly (readonly [string, readonly (readonly [Form, string, string])[]])[] = [
  ["Programme", [["mp4", "MP4 video", "H.264 and AAC, size and rate of the source"], ["mp3", "MP3", "192 kbit/s, with title and show"], ["wav", "WAV", "48 kHz, 24 bit"]]],
  ["Captions", [["srt", "SubRip", "captions of the edited time"], ["vtt", "WebVTT", "captions of the edited time"]]],
  ["Transcript", [["txt", "Text", "a paragraph for each passage"], ["md", "Markdown", "with title and times"]]],
];

const NAMES = new Map(FORMS.flatMap(([, forms]) => forms.map(([form, name]) => [form as string, name])));
const failed = (error: unknown) => desk().say(error instanceof Error ? error.message : String(error), { trouble: true });

export function ExportBench({ episode, head }: { episode: Episode; head: Head }) {
  const start = useChange(episode.id, (form: Form) =>
    got(client.POST("/api/editions/{edition_id}/exports", { params: { path: { edition_id: head.id } }, body: { form } })),
  );
  const stop = useChange(episode.id, (id: string) => got(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id: id } } })));
  const again = useChange(episode.id, (id: string) => got(client.POST("/api/jobs/{job_id}/retry", { params: { path: { job_id: id } } })));
  const remove = useChange(episode.id, (id: string) => got(client.DELETE("/api/exports/{export_id}", { params: { path: { export_id: id } } })));
  const jobs = episode.jobs.filter((job) => job.kind === "export" && job.subject === head.id && job.state !== "cancelled");
  const exports = episode.exports.filter((each) => each.edition_id === head.id);
  return (
    <section aria-label="Export">
      <Heading aside={clock(head.running_time)}>Export</Heading>
      {FORMS.map(([group, forms]) => (
        <div key={group} className="mb-1.5 grid grid-cols-[76px_1fr] items-start gap-1">
          <span className="pt-1.5 text-soft">{group}</span>
          <div className="flex flex-wrap gap-1.5">
            {forms.map(([form, name, about]) => (
              <Button key={form} hint={about} disabled={head.running_time === 0} onClick={() => start.mutate(form, { onError: failed })}>
                {name}
              </Button>
            ))}
          </div>
        </div>
      ))}
      <ul className="mt-2 space-y-2">
        {jobs.map((job) => (
          <li key={job.id} className="space-y-1 rounded-md border border-line bg-paper px-2.5 py-2">
            {job.state === "failed" ? (
              <>
                <b className="font-semibold">{NAMES.get(job.form)}</b>
                <Trouble>{job.trouble}</Trouble>
                <Button onClick={() => again.mutate(job.id, { onError: failed })}>Try again</Button>
              </>
            ) : (
              <Working job={job} total={job.total} verb={`Writing ${NAMES.get(job.form) ?? ""}`} onStop={(id) => stop.mutate(id, { onError: failed })} />
            )}
          </li>
        ))}
      </ul>
      <Heading aside={exports.length ? `${exports.length}` : undefined}>Finished</Heading>
      {exports.length === 0 && <p className="text-soft">Finished files appear here, ready to download.</p>}
      <ul aria-label="Finished exports" className="space-y-2">
        {exports.map((each) => (
          <li key={each.id} className="flex items-center gap-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
            <div className="min-w-0 flex-1">
              <b className="block truncate font-semibold" title={each.file_name}>
                {each.file_name}
              </b>
              <span className="font-mono text-[11px] text-soft">
                {clock(each.length)} · {bytes(each.size)}
                {each.revision < head.revision && " · edited since"}
              </span>
            </div>
            <a
              href={`/api/exports/${each.id}/file`}
              download
              aria-label={`Download ${each.file_name}`}
              className="rounded-md border border-line p-1.5 hover:border-blue hover:text-blue"
            >
              <Download size={15} />
            </a>
            <Button look="quiet" className="!px-1.5" aria-label={`Delete ${each.file_name}`} onClick={() => remove.mutate(each.id, { onError: failed })}>
              <Trash2 size={15} />
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
