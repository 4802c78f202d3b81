/** The title of the episode in the bar: a click renames it, or its show. */
import { Popover } from "radix-ui";
import { useState, type FormEvent } from "react";
import { client, got, type Episode } from "../api/client";
import { keys } from "../api/queries";
import { useChange } from "../desk/change";
import { useMay } from "../desk/rights";
import { Button } from "../ui/controls";
import { TextField } from "../ui/fields";


export function Titles({ episode }: { episode: Episode }) {
  const [open, setOpen] = useState(false);
  const edits = useMay("edit");
  const change = useChange([keys.episode(episode.id), keys.shows], async ({ title, show }: { title: string; show: string }) => {
    if (title && title !== episode.title) {
      await got(client.PATCH("/api/episodes/{episode_id}", { params: { path: { episode_id: episode.id } }, body: { title, folder: null, archived: null, deleted: null } }));
    }
    if (show && show !== episode.show) {
      await got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id: episode.show_id } }, body: { name: show, about: null, deleted: null, numbers: null, colours: null } }));
    }
  });
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const data = new FormData(event.currentTarget);
    const text = (name: string) => String(data.get(name)).trim();
    change.run({ title: text("title"), show: text("show") }, () => setOpen(false));
  };
  if (!edits) return <h1 className="min-w-10 truncate px-1 font-semibold text-bartext">{episode.title}</h1>;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <h1 className="min-w-10 truncate font-semibold text-bartext">
        <Popover.Trigger className="max-w-full truncate rounded px-1 align-bottom hover:bg-barline" title="Click to rename">
          {episode.title}
        </Popover.Trigger>
      </h1>
      <Popover.Portal>
        <Popover.Content align="start" sideOffset={6} className="z-40 w-72 rounded-lg border border-line bg-paper p-3 text-ink shadow-lg" onKeyDown={(event) => event.stopPropagation()}>
          <form onSubmit={submit} className="space-y-2">
            <label className="block text-soft">
              Title of the episode
              <TextField label="Title of the episode" name="title" autoFocus defaultValue={episode.title} maxLength={200} className="w-full" />
            </label>
            <label className="block text-soft">
              Name of the show
              <TextField label="Name of the show" name="show" defaultValue={episode.show} maxLength={200} className="w-full" />
            </label>
            <Button type="submit" look="strong" disabled={change.busy}>
              Rename
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
