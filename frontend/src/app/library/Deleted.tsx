/** What was deleted, with a way back. */
import { client, got, type Show } from "../../api/client";
import { keys } from "../../api/queries";
import { useChange } from "../../desk/change";
import { Button } from "../../ui/controls";
import { changed } from "./EpisodeLine";

export function Deleted({ shows }: { shows: readonly Show[] }) {
  const episode = useChange([keys.shows], (id: string) => changed(id, { deleted: false }));
  const show = useChange([keys.shows], (show_id: string) =>
    got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id } }, body: { name: null, about: null, deleted: false, numbers: null, colours: null } })),
  );
  const lines = [
    ...shows.filter((each) => each.deleted).map((each) => ({ id: each.id, name: `${each.name} (show)`, back: () => show.run(each.id) })),
    ...shows.flatMap((each) => (each.deleted ? [] : each.episodes.filter((one) => one.deleted).map((one) => ({ id: one.id, name: `${each.name} / ${one.title}`, back: () => episode.run(one.id) })))),
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
