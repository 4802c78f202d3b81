import { useQuery } from "@tanstack/react-query";
import { Copy, FilePlus2, Pencil, Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, queryClient, type Episode } from "../api/client";
import type { SchemaComparisonOut } from "../api/schema";
import { clock } from "../api/time";
import { FromTimeline } from "./FromTimeline";
import { PictureShape } from "../page/PictureShape";
import { selected } from "../page/tokens";
import { Button, Heading } from "../ui/controls";
import { Pick, TextField } from "../ui/fields";
import { keys } from "../api/queries";
import { tellDone, useEpisodeChange } from "../desk/change";
import { desk, useDesk } from "../desk/desk";
import { useMay } from "../desk/rights";
import { LetGuestsIn } from "./team/LetGuestsIn";
import type { Scene } from "../page/scene";
import { arrive, here, select } from "../desk/place";


/** Open an edition of the episode, and remember that for the next time. */
export function openEdition(episode: Episode, id: string) {
  localStorage.setItem(`jaskel.edition.${episode.id}`, id);
  desk().set({ edition: id, panel: null });
  arrive();
}

/** The editions of an episode: opened, made, renamed, compared, deleted. */
export function Editions({ episode, scene }: { episode: Episode; scene: Scene }) {
  const { head, tokens } = scene;
  const [name, setName] = useState("");
  const [naming, setNaming] = useState("");
  const [other, setOther] = useState(episode.editions.find((edition) => edition.id !== head.id)?.id ?? "");
  const edits = useMay("edit");
  const team = useDesk((state) => state.team);
  const range = selected(tokens.list, here().selection);
  const make = useEpisodeChange(episode.id, (from: "nothing" | "all" | "selection") =>
    got(
      client.POST("/api/episodes/{episode_id}/editions", {
        params: { path: { episode_id: episode.id } },
        body: {
          name: name.trim() || `Edition ${episode.editions.length + 1}`,
          copy_of: from === "nothing" ? null : head.id,
          ranges: from === "selection" && range ? [{ begin: range[0], end: range[1] }] : [],
        },
      }),
    ),
  );
  const rename = useEpisodeChange(episode.id, (change: { id: string; name: string }) =>
    got(client.PATCH("/api/editions/{edition_id}", { params: { path: { edition_id: change.id } }, body: { name: change.name, target: null, target_kind: null } })),
  );
  const remove = useEpisodeChange(episode.id, (id: string) => got(client.DELETE("/api/editions/{edition_id}", { params: { path: { edition_id: id } } })));
  const back = (id: string) => got(client.POST("/api/editions/{edition_id}/restore", { params: { path: { edition_id: id } } }));
  const making = (from: "nothing" | "all" | "selection") =>
    make.run(from, (made) => openEdition(episode, made.id));
  const submit = (event: FormEvent<HTMLFormElement>, id: string) => {
    event.preventDefault();
    const wanted = String(new FormData(event.currentTarget).get("name")).trim();
    setNaming("");
    if (wanted) rename.run({ id, name: wanted }, () => void queryClient.invalidateQueries({ queryKey: ["head", id] }));
  };
  return (
    <>
      <ul className="overflow-hidden rounded-md border border-line">
        {episode.editions.map((edition) => (
          <li key={edition.id} className="flex items-center gap-2 border-b border-line px-3 py-1.5 last:border-0">
            {naming === edition.id ? (
              <form onSubmit={(event) => submit(event, edition.id)} className="flex flex-1 gap-1.5">
                <TextField label={`Name of ${edition.name}`} name="name" autoFocus defaultValue={edition.name} maxLength={200} className="flex-1" />
                <Button type="submit">Name it</Button>
              </form>
            ) : (
              <>
                <button type="button" aria-current={edition.id === head.id} onClick={() => openEdition(episode, edition.id)} className="min-w-0 flex-1 truncate text-left font-serif text-[15px] hover:text-blue">
                  {edition.name}
                  {edition.id === head.id && <span className="font-sans text-xs text-soft"> – open</span>}
                </button>
                <span className="font-mono text-xs text-soft">{clock(edition.length)}</span>
                {edits && <PictureShape edition={edition.id} revision={edition.revision} shape={edition.shape} label={`Picture of ${edition.name}`} />}
                {edits && (
                  <Button look="quiet" className="!px-1" aria-label={`Rename ${edition.name}`} onClick={() => setNaming(edition.id)}>
                    <Pencil size={13} />
                  </Button>
                )}
                {edits && <Button look="quiet" className="!px-1" aria-label={`Delete ${edition.name}`} why={episode.editions.length < 2 ? "An episode keeps at least one edition" : edition.id === head.id && "This one is open: open another first"} hint="With its history; Undo brings it back" onClick={() => remove.run(edition.id, () => tellDone({ text: `Deleted the edition “${edition.name}”`, undo: () => back(edition.id) }, [keys.episode(episode.id)]))}>
                  <Trash2 size={13} />
                </Button>}
              </>
            )}
          </li>
        ))}
      </ul>
      {edits && team && (
        <>
          <Heading>Link for guests</Heading>
          <LetGuestsIn edition={head.id} name={head.name} />
        </>
      )}
      {edits && <Heading>New edition</Heading>}
      <div className="flex flex-wrap gap-1.5" hidden={!edits}>
        <TextField label="Name of the new edition" value={name} placeholder="Trailer, short version, clip …" maxLength={200} onChange={setName} className="flex-1" />
        <Button onClick={() => making("all")}>
          <Copy size={14} /> Copy of this one
        </Button>
        <Button why={!range && "Select something on the page first"} hint="What is selected on the page" onClick={() => making("selection")}>
          Of the selection
        </Button>
        <Button onClick={() => making("nothing")}>
          <FilePlus2 size={14} /> Empty
        </Button>
        <FromTimeline episode={episode} open={(edition) => openEdition(episode, edition)} />
      </div>
      {episode.editions.length > 1 && (
        <>
          <Heading>Compare</Heading>
          <Pick label="Compare with" value={other} options={episode.editions.filter((edition) => edition.id !== head.id).map((edition) => [edition.id, edition.name] as const)} onChange={setOther} />
          {other && <Compared scene={scene} first={{ edition: head.id }} second={{ edition: other }} names={[`in ${head.name}`, `in ${episode.editions.find((edition) => edition.id === other)?.name ?? ""}`]} />}
        </>
      )}
    </>
  );
}

interface State {
  edition: string;
  revision?: number;
}

/** What one state keeps that the other does not, side by side. */
export function Compared({ scene, first, second, names }: { scene: Scene; first: State; second: State; names: readonly [string, string] }) {
  const found = useQuery({
    queryKey: ["compare", first, second, scene.head.revision],
    queryFn: () =>
      got(
        client.GET("/api/compare", {
          params: { query: { edition: first.edition, revision: first.revision ?? null, other: second.edition, other_revision: second.revision ?? null } },
        }),
      ),
  });
  if (found.isError) return <p className="mt-2 text-red">{found.error.message}</p>;
  if (!found.data) return <p className="mt-2 text-soft">Comparing …</p>;
  return (
    <div className="mt-2 grid grid-cols-2 gap-3">
      <Side title={`Only ${names[0]}`} of="first" found={found.data} go={first.revision === undefined ? scene.reveal : undefined} />
      <Side title={`Only ${names[1]}`} of="second" found={found.data} />
      {found.data.retyped.length > 0 && (
        <section aria-label="Words that differ" className="col-span-2">
          <h3 className="mb-1 font-semibold">Words that differ</h3>
          <ul className="max-h-40 overflow-y-auto rounded-md border border-line">
            {found.data.retyped.map((each) => (
              <li key={`${each.recording}-${each.at}`} className="border-b border-line px-2 py-1 font-serif last:border-0">
                {each.before === each.after ? `“${each.after}”: another voice` : `“${each.before}” ${names[0]}, “${each.after}” ${names[1]}`}
              </li>
            ))}
          </ul>
        </section>
      )}
      <p className="col-span-2 text-soft">{clock(found.data.shared)} is in both.</p>
    </div>
  );
}

function Side({ title, of, found, go }: { title: string; of: "first" | "second"; found: SchemaComparisonOut; go?: ((laid: number) => void) | undefined }) {
  const mine = found.differences.filter((difference) => difference.only_in === of);
  return (
    <section aria-label={title}>
      <h3 className="mb-1 font-semibold">
        {title} <span className="font-mono text-xs font-normal text-soft">of {clock(of === "first" ? found.first_length : found.second_length)}</span>
      </h3>
      {mine.length === 0 && <p className="text-soft">Nothing.</p>}
      <ul className="max-h-64 overflow-y-auto rounded-md border border-line empty:hidden">
        {mine.map((difference) => (
          <li key={difference.at} className="flex gap-2 border-b border-line px-2 py-1 last:border-0">
            <button
              type="button"
              disabled={!go}
              onClick={() => {
                desk().set({ panel: null });
                select({ anchor: difference.at, focus: difference.at + difference.length - 1 });
                go?.(difference.at);
              }}
              className="flex min-w-0 flex-1 items-baseline gap-2 text-left enabled:hover:text-blue"
            >
              <span className="font-mono text-xs text-soft">{clock(difference.at)}</span>
              <span className="line-clamp-2 font-serif">{difference.text || `rest of ${clock(difference.length, 1)}`}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
