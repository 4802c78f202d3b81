import { Download, Trash2 } from "lucide-react";
import { useState } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { USUAL_FILES, type CaptionFilesAsked } from "../../api/exports";
import { keys, useForms } from "../../api/queries";
import type { SchemaFormOut as Form } from "../../api/schema";
import { bytes, clock } from "../../api/time";
import { tellDone, useEpisodeChange, useWork } from "../../desk/change";
import type { BenchProps } from "../../page/stage";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { Pick, Tick } from "../../ui/fields";
import { CaptionFiles } from "./CaptionFiles";

const BITS = [64, 96, 128, 160, 192, 256, 320] as const;

/** How films have captions. */
const CAPTIONS = { none: [], "burned in": ["burned in"], track: ["track"], both: ["burned in", "track"] } as const;

const made = (at: string) => new Date(at).toLocaleString("en-GB", { day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit" });

/** A file's name, of which a long one gives way in its middle: its end and its form are to be read. */
function FileName({ name }: { name: string }) {
  const tail = name.slice(-18);
  return (
    <b className="flex font-semibold" title={name} aria-label={name}>
      <span className="truncate whitespace-pre">{name.slice(0, -18)}</span>
      <span className="shrink-0 whitespace-pre">{tail}</span>
    </b>
  );
}

export default function ExportBench({ episode, head }: BenchProps) {
  return head ? <Bench episode={episode} head={head} /> : null;
}

function Bench({ episode, head }: { episode: Episode; head: Head }) {
  const work = useWork(episode.id);
  const [kilobits, setKilobits] = useState<(typeof BITS)[number]>(192);
  const [muted, setMuted] = useState(false);
  const [captions, setCaptions] = useState<keyof typeof CAPTIONS>("none");
  const [files, setFiles] = useState<CaptionFilesAsked>(USUAL_FILES);
  const forms = useForms().data?.forms ?? [];
  const nameOf = (form: string) => forms.find((each) => each.key === form)?.label ?? form;
  const start = useEpisodeChange(episode.id, (form: Form["key"]) =>
    got(client.POST("/api/editions/{edition_id}/exports", { params: { path: { edition_id: head.id } }, body: { form, bits: (kilobits * 1000) as 192000, muted, captions: [...CAPTIONS[captions]], ...files } })),
  );
  const remove = useEpisodeChange(episode.id, (id: string) => got(client.DELETE("/api/exports/{export_id}", { params: { path: { export_id: id } } })));
  const back = (export_id: string) => got(client.POST("/api/exports/{export_id}/restore", { params: { path: { export_id } } }));
  const jobs = episode.jobs.filter((job) => job.kind === "export" && job.subject === head.id && job.state !== "cancelled");
  const exports = episode.exports.filter((each) => each.edition_id === head.id).toSorted((a, b) => b.created.localeCompare(a.created));
  return (
    <section aria-label="Export">
      <Heading aside={clock(head.running_time)}>Export</Heading>
      {[...new Set(forms.map((each) => each.group))].map((group) => (
        <div key={group} className="mb-1.5 grid grid-cols-[76px_1fr] items-start gap-1">
          <span className="pt-1.5 text-soft">{group}</span>
          <div className="flex flex-wrap gap-1.5">
            {forms.filter((each) => each.group === group).map(({ key, label, about }) => (
              <Button key={key} hint={about} why={head.running_time === 0 && "Everything is struck: put something back first"} onClick={() => start.run(key)}>
                {label}
              </Button>
            ))}
          </div>
        </div>
      ))}
      <label className="mb-1 flex items-center justify-between gap-2 text-soft">
        Sound of MP3, M4A, Opus and films
        <Pick label="Bit rate" value={String(kilobits)} options={BITS.map((each) => [String(each), `${each} kbit/s`] as const)} onChange={(each) => setKilobits(Number(each) as (typeof BITS)[number])} />
      </label>
      <label className="mb-1 flex items-center justify-between gap-2 text-soft">
        Captions of films
        <Pick
          label="Captions of films"
          value={captions}
          options={[
            ["none", "none"],
            ["burned in", "burned in"],
            ["track", "as a track"],
            ["both", "both"],
          ]}
          onChange={setCaptions}
        />
      </label>
      <CaptionFiles {...{ head, files, forms }} show={episode.show_id} set={setFiles} />
      {head.muted.length > 0 && (
        <label className="flex items-center gap-1.5 text-soft">
          <Tick checked={muted} onChange={setMuted} /> write words of muted voices, too
        </label>
      )}
      <ul className="mt-2 space-y-2">
        {jobs.map((job) => (
          <li key={job.id} className="space-y-1 rounded-md border border-line bg-paper px-2.5 py-2">
            {job.state === "failed" ? (
              <>
                <b className="font-semibold">{nameOf(job.form)}</b>
                <Trouble>{job.trouble}</Trouble>
                <Button onClick={() => work.again(job.id)}>Try again</Button>
              </>
            ) : (
              <Working job={job} total={job.total} verb={`Writing ${nameOf(job.form)}`} onStop={work.stop} />
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
              <FileName name={each.file_name} />
              <span className="block font-mono text-xs text-soft">
                {[nameOf(each.form), clock(each.length), bytes(each.size)].join(" · ")}
              </span>
              <span className="block font-mono text-xs text-soft">
                {`${made(each.created)} · step ${each.revision}`}
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
            <Button look="quiet" className="!px-1.5" aria-label={`Delete ${each.file_name}`} hint="The edition stays as it is" onClick={() => remove.run(each.id, () => tellDone({ text: `Deleted ${each.file_name}`, undo: () => back(each.id) }, [keys.episode(episode.id)]))}>
              <Trash2 size={15} />
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
