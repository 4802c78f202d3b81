/** What was exported of an edition: files that came together stand together. */
import { Download, Play, Rss, Trash2, X } from "lucide-react";
import { useState } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { keys } from "../../api/queries";
import type { SchemaFormOut as Form } from "../../api/schema";
import { bytes, clock } from "../../api/time";
import { tellDone, useEpisodeChange } from "../../desk/change";
import { useMay } from "../../desk/rights";
import { Button, Heading } from "../../ui/controls";
import { together } from "./destinations";
import { canBePublished, FeedSection, isFilm, PublishForm, useFeed } from "./Publish";

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

/** A finished file as a player shows it; its captions are in it, or beside it. */
function Look({ id, film, name }: { id: string; film: boolean; name: string }) {
  const src = `/api/exports/${id}/file`;
  // eslint-disable-next-line jsx-a11y/media-has-caption
  return film ? <video src={src} controls aria-label={name} className="max-h-64 w-full rounded-md bg-bar" /> : <audio src={src} controls aria-label={name} className="h-9 w-full" />;
}

export function Finished({ episode, head, forms }: { episode: Episode; head: Head; forms: readonly Form[] }) {
  const remove = useEpisodeChange(episode.id, (id: string) => got(client.DELETE("/api/exports/{export_id}", { params: { path: { export_id: id } } })));
  const back = (export_id: string) => got(client.POST("/api/exports/{export_id}/restore", { params: { path: { export_id } } }));
  const [edits, exports] = [useMay("edit"), useMay("export")];
  const feed = useFeed(episode);
  const [looked, setLooked] = useState("");
  const [publishing, setPublishing] = useState("");
  const nameOf = (form: string) => forms.find((each) => each.key === form)?.label ?? form;
  const sets = together(episode.exports.filter((each) => each.edition_id === head.id));
  const count = sets.reduce((sum, each) => sum + each.files.length, 0);
  return (
    <>
      <Heading aside={count ? `${count}` : undefined}>Finished</Heading>
      {sets.length === 0 && <p className="text-soft">Finished files appear here, ready to download.</p>}
      <ul aria-label="Finished exports" className="space-y-2">
        {sets.map((set) => (
          <li key={set.job} className="rounded-md border border-line bg-paper px-2.5 py-2">
            {set.name && <p className="mb-1 text-soft">{set.name}</p>}
            {edits && feed?.host && canBePublished(set.files.map((each) => each.form)) && publishing !== set.job && (
              <Button look="quiet" className="float-right -mt-6 !px-1.5 !py-0" aria-label={`Publish ${set.files[0]?.file_name ?? ""}`} onClick={() => setPublishing(set.job)}>
                <Rss size={13} /> Publish
              </Button>
            )}
            <ul className="space-y-1.5">
              {set.files.map((each) => (
                <li key={each.id} className="flex flex-wrap items-center gap-1.5">
                  <div className="min-w-0 flex-1">
                    <FileName name={each.file_name} />
                    <span className="block font-mono text-xs text-soft">{[nameOf(each.form), clock(each.length), bytes(each.size)].join(" · ")}</span>
                    <span className="block font-mono text-xs text-soft">
                      {`${made(each.created)} · step ${each.revision}`}
                      {each.revision < head.revision && " · edited since"}
                    </span>
                  </div>
                  {canBePublished([each.form]) && (
                    <Button look="quiet" className="!px-1.5" aria-label={`${looked === each.id ? "Close" : "Play"} ${each.file_name}`} hint="Look at the finished file" onClick={() => setLooked(looked === each.id ? "" : each.id)}>
                      {looked === each.id ? <X size={15} /> : <Play size={15} />}
                    </Button>
                  )}
                  <a href={`/api/exports/${each.id}/file`} download aria-label={`Download ${each.file_name}`} className="rounded-md border border-line p-1.5 hover:border-blue hover:text-blue">
                    <Download size={15} />
                  </a>
                  {exports && <Button look="quiet" className="!px-1.5" aria-label={`Delete ${each.file_name}`} hint="The edition stays as it is" onClick={() => remove.run(each.id, () => tellDone({ text: `Deleted ${each.file_name}`, undo: () => back(each.id) }, [keys.episode(episode.id)]))}>
                    <Trash2 size={15} />
                  </Button>}
                  {looked === each.id && <Look id={each.id} film={isFilm(each.form)} name={each.file_name} />}
                </li>
              ))}
            </ul>
            {feed && publishing === set.job && <PublishForm {...{ episode, feed }} job={set.job} done={() => setPublishing("")} />}
          </li>
        ))}
      </ul>
      {edits && feed && <FeedSection {...{ episode, feed }} />}
    </>
  );
}
