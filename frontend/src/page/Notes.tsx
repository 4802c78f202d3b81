import { MessageSquareText } from "lucide-react";
import { Popover } from "radix-ui";
import { useState, type FormEvent } from "react";
import { author } from "../api/author";
import { client, got, type Episode } from "../api/client";
import type { SchemaNoteOut as Note } from "../api/schema";
import { desk } from "../desk/desk";
import { here, playhead } from "../desk/place";
import type { Scene } from "./scene";
import { Button } from "../ui/controls";
import type { PageMark, Placed } from "./marks";
import { changeMarks } from "./Selects";
import { indexAt, selected } from "./tokens";

const AREA = "w-full rounded-md border border-line bg-paper px-2 py-1.5 font-serif text-[15px] leading-snug";

/** Write a note beside what is selected, or beside the word at the playhead. */
export function NewNote({ episode, scene }: { episode: Episode; scene: Scene }) {
  const { tokens, head } = scene;
  const picked = selected(tokens.list, here().selection);
  const laid = picked?.[0] ?? tokens.list[indexAt(tokens.list, playhead())]?.at ?? 0;
  const write = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("note")).trim();
    if (!text) return;
    const params = { path: { episode_id: episode.id } };
    const write = () => got(client.POST("/api/episodes/{episode_id}/notes", { params, body: { edition: head.id, laid, text, ...author() } }));
    if (await changeMarks(write, "Added a note")) desk().set({ panel: null, draft: "" });
  };
  return (
    <form onSubmit={(event) => void write(event)} className="space-y-2">
      <textarea name="note" autoFocus rows={4} maxLength={4000} defaultValue={desk().draft} aria-label="Note" className={AREA} />
      <Button type="submit" look="strong">
        Add note
      </Button>
    </form>
  );
}

/** The mark of a note where it is placed on the page. */
export const noteMark = (episode: string, note: Note, { id, begin }: Placed): PageMark => ({
  id,
  lane: "margin",
  begin,
  end: begin + 1,
  look: "note",
  label: `Note: ${note.text}`,
  drawn: <Opened episode={episode} note={note} />,
});

/** A note, which opens beside its line. */
function Opened({ episode, note }: { episode: string; note: Note }) {
  const [open, setOpen] = useState(false);
  const params = { path: { episode_id: episode, mark_id: note.id } };
  const save = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("note")).trim();
    if (await changeMarks(() => got(client.PATCH("/api/episodes/{episode_id}/notes/{mark_id}", { params, body: { text, ...author() } })), "Changed a note")) setOpen(false);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger aria-label={`Note: ${note.text}`} title={note.who ? `${note.who}: ${note.text}` : note.text} className="text-plum hover:text-ink">
        <MessageSquareText size={15} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="left" align="start" className="z-40 w-72 rounded-lg border border-line bg-paper p-3 text-ink shadow-lg" onKeyDown={(event) => event.stopPropagation()}>
          <form onSubmit={(event) => void save(event)} className="space-y-2">
            {note.who && <p className="text-soft">{note.who}</p>}
            <textarea name="note" defaultValue={note.text} rows={4} maxLength={4000} aria-label="Note" className={AREA} />
            <div className="flex gap-1.5">
              <Button type="submit" look="strong">
                Save
              </Button>
              <Button onClick={() => void changeMarks(() => got(client.DELETE("/api/episodes/{episode_id}/notes/{mark_id}", { params: { ...params, query: author() } })), "Deleted the note")}>Delete note</Button>
            </div>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
