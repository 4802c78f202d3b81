/** A show with its episodes; a recording that is dropped on it makes an episode of it. */
import clsx from "clsx";
import { ChevronRight } from "lucide-react";
import { useState, type ReactNode } from "react";
import { client, got, type Show } from "../../api/client";
import { useMe } from "../../api/me";
import { keys } from "../../api/queries";
import { tellDone, useChange } from "../../desk/change";
import { Button } from "../../ui/controls";
import { newEpisode, titleOf, useFiles, useOpening } from "./begin";
import { People } from "../team/People";
import { EpisodeLine } from "./EpisodeLine";
import { Item, Menu, NameForm, Renaming } from "./parts";

export function ShowSection({ show }: { show: Show }) {
  const [archived, setArchived] = useState(false);
  const [naming, setNaming] = useState(false);
  const [people, setPeople] = useState(false);
  const edits = show.may.includes("edit");
  const team = useMe().data?.team;
  const open = useOpening();
  const make = useChange([keys.shows], (title: string) => newEpisode(show.id, title));
  const changed = (what: { name?: string; deleted?: boolean }) =>
    got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id: show.id } }, body: { name: null, about: null, deleted: null, numbers: null, colours: null, ...what } }));
  const change = useChange([keys.shows], changed);
  const { getRootProps, getInputProps, isDragActive, open: choose } = useFiles((files) => make.run(titleOf(files), (episode) => open(episode, files)));
  const kept = show.episodes.filter((episode) => !episode.deleted);
  const listed = kept.filter((episode) => archived || !episode.archived);
  const folders = [...new Set(listed.map((episode) => episode.folder))].sort();
  const hidden = kept.length - kept.filter((episode) => !episode.archived).length;
  return (
    <section className={clsx("mb-9 rounded-lg", isDragActive && "outline-2 outline-offset-8 outline-blue outline-dashed")} aria-label={show.name} {...getRootProps({ role: "region", tabIndex: undefined })}>
      <div className="flex items-center gap-2">
        {naming ? (
          <Renaming label={`Name of ${show.name}`} value={show.name} done={(name) => (setNaming(false), name && change.run({ name }))} />
        ) : (
          <h2 className="flex-1 font-serif text-2xl font-semibold">{show.name}</h2>
        )}
        {(edits || team) && <Menu label={`More about ${show.name}`}>
          {team && <Item onSelect={() => setPeople(true)}>People</Item>}
          {edits && <Item onSelect={() => setNaming(true)}>Rename</Item>}
          {show.may.includes("own") && <Item onSelect={() => change.run({ deleted: true }, () => tellDone({ text: `Deleted the show “${show.name}”`, undo: () => changed({ deleted: false }) }, [keys.shows]))}>Delete</Item>}
        </Menu>}
        {people && <People show={show} done={() => setPeople(false)} />}
      </div>
      {show.about && <p className="text-soft">{show.about}</p>}
      {folders.map((folder) => (
        <Folder key={folder} name={folder}>
          {listed
            .filter((episode) => episode.folder === folder)
            .map((episode) => (
              <EpisodeLine key={episode.id} episode={episode} folders={folders.filter(Boolean)} edits={edits} />
            ))}
        </Folder>
      ))}
      {listed.length === 0 && <p className="my-3 border-y border-line px-1 py-2.5 text-soft">No episodes yet.</p>}
      <div className="flex items-center justify-between gap-3" hidden={!edits}>
        <NameForm label="Title of the new episode" button="Make an episode" make={(title) => make.run(title, (episode) => open(episode))} busy={make.busy} />
        <input {...getInputProps({ "aria-label": `Recordings for a new episode of ${show.name}` })} />
        <span className="ml-auto whitespace-nowrap text-soft">
          or drop a recording here, or{" "}
          <button type="button" className="underline hover:text-blue" onClick={choose}>
            choose one
          </button>
        </span>
        {hidden > 0 && (
          <Button look="quiet" aria-pressed={archived} onClick={() => setArchived(!archived)}>
            {archived ? "Hide archived" : `${hidden} archived`}
          </Button>
        )}
      </div>
    </section>
  );
}

function Folder({ name, children }: { name: string; children: ReactNode }) {
  const [open, setOpen] = useState(true);
  return (
    <div className="my-3">
      {name && (
        <button type="button" aria-expanded={open} onClick={() => setOpen(!open)} className="flex items-center gap-1 py-1 font-semibold text-soft hover:text-ink">
          <ChevronRight size={14} className={open ? "rotate-90" : ""} /> {name}
        </button>
      )}
      {open && <ul className="divide-y divide-line border-y border-line">{children}</ul>}
    </div>
  );
}
