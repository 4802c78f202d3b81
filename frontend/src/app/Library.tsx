import { useMutation, useQuery, useQueryClient, keepPreviousData } from "@tanstack/react-query";
import { ChevronRight, MoreHorizontal, Moon, Search } from "lucide-react";
import { DropdownMenu, Tooltip } from "radix-ui";
import { useDeferredValue, useEffect, useRef, useState, type FormEvent, type ReactNode } from "react";
import { Link, useLocation } from "wouter";
import { client, got, type EpisodeBrief, type Show } from "../api/client";
import { hrefOf, keys, useShows } from "../api/queries";
import { clock } from "../api/time";
import { Button, Trouble } from "../ui/controls";
import { toggleTheme } from "../ui/theme";

const STATES: Record<EpisodeBrief["state"], string> = {
  empty: "no recordings yet",
  gathered: "not transcribed yet",
  transcribing: "being transcribed",
  transcribed: "transcribed",
  exported: "exported",
};
const FIELD = "rounded-md border border-line bg-paper px-2.5 py-1.5 placeholder:text-soft";

export function Library() {
  const shows = useShows();
  const [words, setWords] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = "Jaskel";
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "f") return;
      event.preventDefault();
      field.current?.focus();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  const all = shows.data?.shows ?? [];
  const here = all.filter((show) => !show.deleted);
  return (
    <Tooltip.Provider>
      <div className="flex h-full flex-col">
        <header className="bar flex h-12 items-center justify-between gap-4 bg-bar px-3.5 text-bartext">
          <span className="font-serif text-base font-semibold tracking-wide">Jaskel</span>
          <Button look="bar" className="!px-2" aria-label="Light or dark" onClick={toggleTheme}>
            <Moon size={15} />
          </Button>
        </header>
        <main className="flex-1 overflow-y-auto bg-paper">
          <div className="mx-auto max-w-3xl px-6 py-8">
            {all.length > 0 && <h1 className="sr-only">Shows and episodes</h1>}
            {shows.isError && <Trouble>{shows.error.message}</Trouble>}
            {all.length > 0 && (
              <label className="mb-7 flex items-center gap-2 text-soft">
                <Search size={16} aria-hidden />
                <input
                  ref={field}
                  value={words}
                  onChange={(event) => setWords(event.target.value)}
                  onKeyDown={(event) => event.key === "Escape" && setWords("")}
                  aria-label="Words that were said"
                  placeholder="Search for words that were said"
                  className={`${FIELD} flex-1 text-ink`}
                />
              </label>
            )}
            {words.trim() ? (
              <Said words={words.trim()} />
            ) : (
              <>
                {shows.data && here.length === 0 && (
                  <div className="mb-8">
                    <h1 className="font-serif text-3xl">Start with a show</h1>
                    <p className="mt-1 text-soft">A show is a series; each programme you make is an episode of it.</p>
                  </div>
                )}
                {here.map((show) => (
                  <ShowSection key={show.id} show={show} />
                ))}
                {shows.data && <NewShow first={here.length === 0} />}
                <Deleted shows={all} />
              </>
            )}
          </div>
        </main>
      </div>
    </Tooltip.Provider>
  );
}

/** Where words were said, in all shows; a hit opens its episode at the word. */
function Said({ words }: { words: string }) {
  const wanted = useDeferredValue(words);
  const found = useQuery({
    queryKey: ["said", wanted],
    queryFn: () => got(client.GET("/api/search", { params: { query: { words: wanted } } })),
    placeholderData: keepPreviousData,
  });
  if (found.isError) return <Trouble>{found.error.message}</Trouble>;
  const hits = found.data?.hits ?? [];
  if (found.data && hits.length === 0) return <p className="text-soft">Nobody said “{words}” in anything that is transcribed.</p>;
  return (
    <ul aria-label="Where it was said" className="divide-y divide-line border-y border-line">
      {hits.map((hit) => (
        <li key={`${hit.recording_id}-${hit.at}`}>
          <Link href={hrefOf(hit)} className="block px-1 py-2.5 hover:bg-side">
            <span className="flex items-baseline justify-between gap-3 text-soft">
              <span className="truncate">
                {hit.show} / <b className="font-semibold text-ink">{hit.episode}</b>
              </span>
              <span className="font-mono text-xs">{clock(hit.at)}</span>
            </span>
            <span className="font-serif text-[17px]">
              {hit.before} <mark className="rounded-sm bg-pick px-0.5 text-ink">{hit.words}</mark> {hit.after}
            </span>
          </Link>
        </li>
      ))}
    </ul>
  );
}

function ShowSection({ show }: { show: Show }) {
  const queries = useQueryClient();
  const [, go] = useLocation();
  const [archived, setArchived] = useState(false);
  const [naming, setNaming] = useState(false);
  const refresh = () => void queries.invalidateQueries({ queryKey: keys.shows });
  const params = { path: { show_id: show.id } };
  const make = useMutation({
    mutationFn: (title: string) => got(client.POST("/api/shows/{show_id}/episodes", { params, body: { title } })),
    onSuccess: (episode) => {
      refresh();
      go(`/episodes/${episode.id}`);
    },
  });
  const change = useMutation({
    mutationFn: (what: { name?: string; deleted?: boolean }) =>
      got(client.PATCH("/api/shows/{show_id}", { params, body: { name: null, about: null, deleted: null, ...what } })),
    onSuccess: refresh,
  });
  const kept = show.episodes.filter((episode) => !episode.deleted);
  const listed = kept.filter((episode) => archived || !episode.archived);
  const folders = [...new Set(listed.map((episode) => episode.folder))].sort();
  const hidden = kept.length - kept.filter((episode) => !episode.archived).length;
  return (
    <section className="mb-9" aria-label={show.name}>
      <div className="flex items-center gap-2">
        {naming ? (
          <Renaming label={`Name of ${show.name}`} value={show.name} done={(name) => (setNaming(false), name && change.mutate({ name }))} />
        ) : (
          <h2 className="flex-1 font-serif text-2xl font-semibold">{show.name}</h2>
        )}
        <Menu label={`More about ${show.name}`}>
          <Item onSelect={() => setNaming(true)}>Rename</Item>
          <Item onSelect={() => change.mutate({ deleted: true })}>Delete</Item>
        </Menu>
      </div>
      {show.about && <p className="text-soft">{show.about}</p>}
      {change.isError && <Trouble>{change.error.message}</Trouble>}
      {folders.map((folder) => (
        <Folder key={folder} name={folder}>
          {listed
            .filter((episode) => episode.folder === folder)
            .map((episode) => (
              <EpisodeLine key={episode.id} episode={episode} folders={folders.filter(Boolean)} refresh={refresh} />
            ))}
        </Folder>
      ))}
      {listed.length === 0 && <p className="my-3 border-y border-line px-1 py-2.5 text-soft">No episodes yet.</p>}
      <div className="flex items-center justify-between gap-3">
        <NameForm label="Title of the new episode" button="Make an episode" make={make.mutate} busy={make.isPending} />
        {hidden > 0 && (
          <Button look="quiet" aria-pressed={archived} onClick={() => setArchived(!archived)}>
            {archived ? "Hide archived" : `${hidden} archived`}
          </Button>
        )}
      </div>
      {make.isError && <Trouble>{make.error.message}</Trouble>}
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

interface EpisodeChange {
  title?: string;
  folder?: string;
  archived?: boolean;
  deleted?: boolean;
}

const changed = (id: string, what: EpisodeChange) =>
  got(
    client.PATCH("/api/episodes/{episode_id}", {
      params: { path: { episode_id: id } },
      body: { title: null, folder: null, archived: null, deleted: null, ...what },
    }),
  );

function EpisodeLine({ episode, folders, refresh }: { episode: EpisodeBrief; folders: readonly string[]; refresh: () => void }) {
  const [naming, setNaming] = useState<"title" | "folder" | null>(null);
  const change = useMutation({ mutationFn: (what: EpisodeChange) => changed(episode.id, what), onSuccess: refresh });
  const copy = useMutation({
    mutationFn: (template: boolean) =>
      got(
        client.POST("/api/episodes/{episode_id}/duplicate", {
          params: { path: { episode_id: episode.id } },
          body: { title: template ? `${episode.title}, set up anew` : `${episode.title}, copy`, template },
        }),
      ),
    onSuccess: refresh,
  });
  const trouble = change.error ?? copy.error;
  return (
    <li>
      <div className="flex items-center gap-3 px-1 hover:bg-side">
        {naming ? (
          <Renaming
            label={naming === "title" ? `Title of ${episode.title}` : `Folder of ${episode.title}`}
            value={naming === "title" ? episode.title : episode.folder}
            options={naming === "folder" ? folders : []}
            done={(text) => {
              setNaming(null);
              if (naming === "folder" && text !== undefined) change.mutate({ folder: text });
              else if (text) change.mutate({ title: text });
            }}
          />
        ) : (
          <Link href={`/episodes/${episode.id}`} className="flex min-w-0 flex-1 items-center gap-3 py-2">
            <img src={`/api/episodes/${episode.id}/card`} alt="" loading="lazy" className="h-9 w-16 shrink-0 rounded-sm border border-line object-cover" />
            <span className="min-w-0 flex-1 truncate font-serif text-[17px]">{episode.title}</span>
            <span className="text-soft">{episode.archived ? "archived" : STATES[episode.state]}</span>
            <span className="w-14 text-right font-mono text-xs text-soft">{episode.length > 0 && clock(episode.length)}</span>
            <time className="w-24 text-right text-soft" dateTime={episode.changed}>
              {new Date(episode.changed).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })}
            </time>
          </Link>
        )}
        <Menu label={`More about ${episode.title}`}>
          <Item onSelect={() => setNaming("title")}>Rename</Item>
          <Item onSelect={() => setNaming("folder")}>Move to folder…</Item>
          <Item onSelect={() => copy.mutate(false)}>Duplicate</Item>
          <Item onSelect={() => copy.mutate(true)}>New episode from these settings</Item>
          <Item onSelect={() => change.mutate({ archived: !episode.archived })}>{episode.archived ? "Take out of the archive" : "Archive"}</Item>
          <Item onSelect={() => change.mutate({ deleted: true })}>Delete</Item>
        </Menu>
      </div>
      {trouble && <Trouble>{trouble.message}</Trouble>}
    </li>
  );
}

/** What was deleted, with a way back. */
function Deleted({ shows }: { shows: readonly Show[] }) {
  const queries = useQueryClient();
  const refresh = { onSuccess: () => queries.invalidateQueries({ queryKey: keys.shows }) };
  const episode = useMutation({ mutationFn: (id: string) => changed(id, { deleted: false }), ...refresh });
  const show = useMutation({
    mutationFn: (show_id: string) =>
      got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id } }, body: { name: null, about: null, deleted: false } })),
    ...refresh,
  });
  const lines = [
    ...shows.filter((each) => each.deleted).map((each) => ({ id: each.id, name: `${each.name} (show)`, back: () => show.mutate(each.id) })),
    ...shows.flatMap((each) => (each.deleted ? [] : each.episodes.filter((one) => one.deleted).map((one) => ({ id: one.id, name: `${each.name} / ${one.title}`, back: () => episode.mutate(one.id) })))),
  ];
  if (!lines.length) return null;
  return (
    <section aria-label="Deleted" className="mt-9 border-t border-line pt-5">
      <h2 className="font-semibold text-soft">Deleted</h2>
      <ul>
        {lines.map(({ id, name, back }) => (
          <li key={id} className="flex items-center justify-between gap-3 py-1 text-soft">
            <span className="truncate">{name}</span>
            <Button onClick={back}>Restore</Button>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Menu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger aria-label={label} className="rounded-md p-1.5 text-soft hover:text-ink">
        <MoreHorizontal size={16} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-40 min-w-48 rounded-lg border border-line bg-paper p-1 text-ink shadow-lg">
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Item({ onSelect, children }: { onSelect: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className="cursor-pointer rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-pick">
      {children}
    </DropdownMenu.Item>
  );
}

interface RenamingProps {
  label: string;
  value: string;
  options?: readonly string[];
  /** Gets the new text, or nothing where it was given up. */
  done: (text?: string) => void;
}

function Renaming({ label, value, options = [], done }: RenamingProps) {
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    done(String(new FormData(event.currentTarget).get("text")).trim());
  };
  return (
    <form onSubmit={submit} className="flex flex-1 gap-2 py-1">
      {/* The menu gives the focus back to its button as it closes; the field takes it after that. */}
      <input
        name="text"
        ref={(field) => void setTimeout(() => field?.focus(), 50)}
        defaultValue={value}
        maxLength={200}
        aria-label={label}
        list={`${label} options`}
        onKeyDown={(event) => event.key === "Escape" && done()}
        className={`${FIELD} flex-1`}
      />
      <datalist id={`${label} options`}>
        {options.map((option) => (
          <option key={option} value={option} />
        ))}
      </datalist>
      <Button type="submit">Done</Button>
    </form>
  );
}

function NewShow({ first }: { first: boolean }) {
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: (name: string) => got(client.POST("/api/shows", { body: { name, about: "" } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.shows }),
  });
  return (
    <section aria-label="New show" className={first ? "" : "border-t border-line pt-5"}>
      <NameForm label="Name of the new show" button="Make a show" make={make.mutate} busy={make.isPending} />
      {make.isError && <Trouble>{make.error.message}</Trouble>}
    </section>
  );
}

interface NameFormProps {
  label: string;
  button: string;
  make: (name: string) => void;
  busy: boolean;
}

function NameForm({ label, button, make, busy }: NameFormProps) {
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!name.trim()) return;
    make(name.trim());
    setName("");
  };
  return (
    <form onSubmit={submit} className="flex gap-2">
      <input value={name} onChange={(event) => setName(event.target.value)} maxLength={200} aria-label={label} placeholder={label} className={`${FIELD} w-72`} />
      <Button type="submit" disabled={busy || !name.trim()}>
        {button}
      </Button>
    </form>
  );
}
