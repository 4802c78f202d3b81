/** What is written of an edition: proposed from what was said, edited as Markdown beside how it is read, kept, copied, exported. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Copy, Download } from "lucide-react";
import { useState } from "react";
import { client, got } from "../../api/client";
import { USUAL_EXPORT } from "../../api/exports";
import type { components } from "../../api/schema";
import { useForms, useEpisode } from "../../api/queries";
import { useEpisodeChange, useWork } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import type { Scene } from "../../page/scene";
import { Button, Choice } from "../../ui/controls";
import { Working } from "../../ui/Working";

export type Kind = "article" | "summary" | "notes";
type Manner = "names" | "running";
type Written = components["schemas"]["WrittenOut"];

const MANNERS: readonly (readonly [Manner, string])[] = [
  ["names", "Names before paragraphs"],
  ["running", "Running text, guests quoted"],
];

const of = (edition: string, kind: Kind, manner: Manner) => ({ params: { path: { edition_id: edition, kind }, query: { manner } } });

export function Writing({ scene, kind }: { scene: Scene; kind: Kind }) {
  const edition = scene.head.id;
  const [manner, setManner] = useState<Manner>("names");
  const queries = useQueryClient();
  const key = ["written", edition, kind];
  const found = useQuery({ queryKey: key, queryFn: () => got(client.GET("/api/editions/{edition_id}/written/{kind}", of(edition, kind, manner))), retry: false, staleTime: 0, gcTime: 0 });
  const [typed, setTyped] = useState<string | null>(null);
  const [anewHtml, setAnewHtml] = useState<string | null>(null);
  const put = (written: Written) => (queries.setQueryData(key, written), setTyped(null), setAnewHtml(null));
  const keep = useEpisodeChange(scene.head.episode_id, (text: string) => got(client.PUT("/api/editions/{edition_id}/written/{kind}", { params: { path: { edition_id: edition, kind } }, body: { text } })));
  const anew = (how: Manner) => {
    setManner(how);
    got(client.POST("/api/editions/{edition_id}/written/{kind}", of(edition, kind, how))).then((made) => (setTyped(made.text), setAnewHtml(made.html)), failed);
  };
  if (found.error) return <p className="leading-snug text-red">{found.error.message}</p>;
  if (!found.data) return <p className="text-soft">Being written …</p>;
  const text = typed ?? found.data.text;
  const changed = typed !== null && typed !== found.data.text;
  const copy = () => {
    const rich = (written: Written) =>
      navigator.clipboard
        .write([new ClipboardItem({ "text/html": new Blob([written.html], { type: "text/html" }), "text/plain": new Blob([written.text], { type: "text/plain" }) })])
        .then(() => desk().say(`Copied the ${kind}, with its headings`), failed);
    if (changed) keep.run(text, (written) => (put(written), void rich(written)));
    else void rich(found.data);
  };
  return (
    <div className="space-y-2.5">
      {kind === "article" && (
        <div className="flex items-center gap-2">
          <Choice label="How voices are named" value={manner} options={MANNERS} onChange={anew} />
        </div>
      )}
      <div className="grid grid-cols-2 gap-4">
        <textarea
          aria-label={`Text of the ${kind}`}
          value={text}
          onChange={(event) => setTyped(event.target.value)}
          spellCheck
          className="h-[52vh] resize-none rounded-md border border-line bg-paper p-2.5 font-mono text-xs leading-relaxed"
        />
        <section
          aria-label="As it is read"
          // Made by the server, which lets no tags through that somebody typed.
          dangerouslySetInnerHTML={{ __html: anewHtml ?? found.data.html }}
          className="written h-[52vh] overflow-y-auto rounded-md border border-line px-4 py-2 font-serif"
        />
      </div>
      <p className="flex flex-wrap items-center gap-1.5">
        <span className="flex-1 text-soft">{changed ? "Not kept yet." : found.data.edited ? "As it was edited." : "As it is proposed."} Markdown: # heading, &gt; quotation, **strong**.</span>
        <Button hint="Write it anew from what is said now" onClick={() => anew(manner)}>
          Propose anew
        </Button>
        <Button look={changed ? "strong" : "plain"} why={!changed && "Nothing has changed"} onClick={() => keep.run(text, (written) => (put(written), desk().say(`Kept the ${kind}`)))}>
          Keep
        </Button>
        <Button hint="For a mail or another program: with headings, and as plain text" onClick={copy}>
          <Copy size={13} /> Copy
        </Button>
      </p>
      {kind === "article" && <ArticleFiles scene={scene} before={(then) => (changed ? keep.run(text, (written) => (put(written), then())) : then())} />}
    </div>
  );
}

/** The article as files: what was edited is kept first. */
function ArticleFiles({ scene, before }: { scene: Scene; before: (then: () => void) => void }) {
  const forms = (useForms().data?.forms ?? []).filter((each) => each.group === "Article");
  const episode = useEpisode(scene.head.episode_id).data;
  const work = useWork(scene.head.episode_id);
  const names = new Set(forms.map((each) => each.key));
  const write = useEpisodeChange(scene.head.episode_id, (form: (typeof forms)[number]["key"]) => got(client.POST("/api/editions/{edition_id}/exports", { params: { path: { edition_id: scene.head.id } }, body: { ...USUAL_EXPORT, form } })));
  const jobs = episode?.jobs.filter((job) => job.kind === "export" && job.subject === scene.head.id && names.has(job.form as never) && job.state !== "cancelled") ?? [];
  const files = episode?.exports.filter((each) => each.edition_id === scene.head.id && names.has(each.form as never)).toSorted((a, b) => b.created.localeCompare(a.created)) ?? [];
  return (
    <section aria-label="Files of the article" className="space-y-1.5 border-t border-line pt-2.5">
      <div className="flex flex-wrap items-center gap-1.5">
        <span className="text-soft">Export as</span>
        {forms.map(({ key, label, about }) => (
          <Button key={key} hint={about} onClick={() => before(() => write.run(key))}>
            {label}
          </Button>
        ))}
      </div>
      {jobs.map((job) => (
        <Working key={job.id} job={job} total={job.total} verb="Writing the article" onStop={work.stop} />
      ))}
      <ul aria-label="Articles that were exported" className="space-y-0.5">
        {files.slice(0, 4).map((each) => (
          <li key={each.id}>
            <a className="inline-flex items-center gap-1.5 underline hover:text-blue" href={`/api/exports/${each.id}/file`} download>
              <Download size={13} /> {each.file_name}
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}
