/** Where pictures and films come from: this episode, the show's own shelf, the library, a file. */
import clsx from "clsx";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { asItIs, client, got, type Episode } from "../../api/client";
import { keys } from "../../api/queries";
import { change } from "../../desk/change";
import { thumbnailOf } from "../../page/cutaways";
import { Button, Choice, Trouble } from "../../ui/controls";
import { TextField } from "../../ui/fields";

interface PicturesProps {
  episode: Episode;
  /** The words that are selected, by whose meaning the library is searched. */
  said: string;
  /** Lays a recording over the words; null where no words are selected. */
  lay: ((recording: string) => void) | null;
}

const FROM = [
  ["episode", "Episode"],
  ["shelf", "Shelf"],
  ["library", "Library"],
] as const;

export function Pictures({ episode, said, lay }: PicturesProps) {
  const [from, setFrom] = useState<(typeof FROM)[number][0]>("library");
  const file = useRef<HTMLInputElement>(null);
  const stale = [keys.episode(episode.id), ["shelf"]];
  const params = { path: { episode_id: episode.id } };
  /** Makes a recording of this episode of something, and lays it once its picture is there. */
  const take = (send: () => Promise<{ id: string }>) => {
    const taken: { id?: string } = {};
    const sent = async () => {
      taken.id = (await send()).id;
      await ready(episode.id, taken.id);
    };
    void change(stale, sent).then((done) => done && taken.id && lay?.(taken.id));
  };
  const bring = (chosen: File) =>
    take(() => got(client.POST("/api/episodes/{episode_id}/recordings", { params: { ...params, query: { name: chosen.name, placed: false, transcribe: false } }, ...asItIs(chosen) })));
  return (
    <div role="group" aria-label="Pictures to choose from" className="mt-1.5 space-y-1.5 rounded-md border border-line bg-paper p-1.5">
      <div className="flex items-center justify-between gap-1.5">
        <Choice label="Where pictures come from" value={from} options={FROM} onChange={setFrom} />
        <Button className="!px-2" hint="A picture or film from your disk" onClick={() => file.current?.click()}>
          Bring …
        </Button>
        <input ref={file} type="file" hidden aria-label="File of a picture or film" accept="image/*,video/*" onChange={(event) => event.target.files?.[0] && bring(event.target.files[0])} />
      </div>
      {from === "library" && <Library {...{ said }} take={lay && ((picture, text) => take(() => got(client.POST("/api/episodes/{episode_id}/pictures", { params, body: { picture, text } }))))} />}
      {from === "shelf" && <Shelf show={episode.show_id} choose={lay && ((recording_id) => take(() => got(client.POST("/api/episodes/{episode_id}/recordings/reuse", { params, body: { recording_id, transcribe: false } }))))} own={episode.recordings.map((each) => each.id)} lay={lay} />}
      {from === "episode" && (
        <Grid
          empty="This episode has no pictures or films of its own yet."
          items={episode.recordings.filter((each) => each.picture && each.working_copy).map((each) => ({ id: each.id, seen: each.name, picture: thumbnailOf(each.id), film: each.kind !== "still" }))}
          choose={lay}
        />
      )}
    </div>
  );
}

function Library({ said, take }: { said: string; take: ((picture: string, text: string) => void) | null }) {
  const [typed, setTyped] = useState("");
  const [text, setText] = useState("");
  useEffect(() => {
    const wait = window.setTimeout(() => setText(typed.trim()), 300);
    return () => window.clearTimeout(wait);
  }, [typed]);
  const found = useQuery({ queryKey: ["pictures", text], queryFn: () => got(client.GET("/api/pictures", { params: { query: { text } } })), retry: false });
  return (
    <>
      <div className="flex gap-1.5">
        <TextField label="Search the library of pictures" placeholder="boat, harbour, rope …" value={typed} onChange={setTyped} className="flex-1" />
        <Button why={!said && "Select the sentence it is to fit"} hint="What fits the meaning of the words that are selected" onClick={() => setTyped(said.slice(0, 500))}>
          Fitting
        </Button>
      </div>
      {found.isError && <Trouble>{found.error.message}</Trouble>}
      {found.data && (
        <Grid
          empty="The library has nothing like that. Try other words."
          items={found.data.pictures.map((each) => ({ id: each.id, seen: each.seen, picture: `/api/pictures/${each.id}/preview`, film: each.kind === "film" }))}
          choose={take && ((id) => take(id, text))}
        />
      )}
    </>
  );
}

function Shelf({ show, own, choose, lay }: { show: string; own: readonly string[]; choose: ((recording: string) => void) | null; lay: PicturesProps["lay"] }) {
  const found = useQuery({ queryKey: ["shelf", show], queryFn: () => got(client.GET("/api/shows/{show_id}/shelf", { params: { path: { show_id: show } } })) });
  return (
    <Grid
      empty="Pictures and films that episodes of this show have used stand here."
      items={(found.data?.recordings ?? []).map((each) => ({ id: each.id, seen: each.name, picture: thumbnailOf(each.id), film: each.kind !== "still" }))}
      choose={choose && ((id) => (own.includes(id) ? lay?.(id) : choose(id)))}
    />
  );
}

interface Item {
  id: string;
  seen: string;
  picture: string;
  film: boolean;
}

/** Says on the picture that it is a film; in words the label does. */
const FILM = "after:absolute after:top-1 after:right-1 after:rounded after:bg-paper after:px-1 after:text-xs after:leading-4 after:text-ink after:content-['film']";

function Grid({ items, empty, choose }: { items: readonly Item[]; empty: string; choose: ((id: string) => void) | null }) {
  if (!items.length) return <p className="text-soft">{empty}</p>;
  return (
    <ul className="grid max-h-72 grid-cols-2 gap-1.5 overflow-y-auto">
      {items.map(({ id, seen, picture, film }) => (
        <li key={id}>
          <button type="button" aria-disabled={!choose || undefined} aria-label={`Lay “${seen}${film ? " (film)" : ""}” over the words`} title={choose ? seen : `${seen}. Select words first`} className={clsx("relative block w-full overflow-hidden rounded border border-line text-left hover:border-blue aria-disabled:border-dashed", film && FILM)} onClick={() => choose?.(id)}>
            <img src={picture} alt="" loading="lazy" className="aspect-video w-full object-cover" />
            <span className="line-clamp-2 px-1 py-0.5 text-xs leading-4 text-ink">{seen}</span>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Wait until the picture of a recording that was taken can be shown. */
async function ready(episode_id: string, recording: string): Promise<void> {
  for (let tries = 0; tries < 400; tries++) {
    const { recordings } = await got(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id } } }));
    const known = recordings.find((each) => each.id === recording);
    if (known?.working_copy) return;
    if (known?.state === "failed" || known?.state === "cut off") break;
    await new Promise((resolve) => setTimeout(resolve, 300));
  }
  throw new Error("The picture could not be read. Look at it under Gather.");
}
