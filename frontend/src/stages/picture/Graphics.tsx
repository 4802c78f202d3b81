/** What is drawn over the picture: lower thirds, titles, and whether logo and bar are seen in this edition. */
import { Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import type { Head, PageWords, Voice } from "../../api/client";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { changedGraphic, type Graphic } from "../../page/graphics";
import { indexAt, selected, type Tokens } from "../../page/tokens";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, TextField, Tick } from "../../ui/fields";

interface GraphicsProps {
  head: Head;
  page: PageWords | undefined;
  tokens: Tokens;
  voices: ReadonlyMap<string, Voice>;
  edit: Edit;
  reveal: (laid: number) => void;
}

/** Words after the playhead that a title stands over, where none are selected. */
const OVER = 8;

const PLACES = [
  ["top", "at the top"],
  ["middle", "in the middle"],
  ["bottom", "at the bottom"],
] as const;

export function Graphics({ head, page, tokens, voices, edit, reveal }: GraphicsProps) {
  const picked = selected(tokens.list, usePlace((state) => state.selection));
  const cursor = usePlace((state) => state.cursor);
  const { graphics, dressing } = head;
  const from = indexAt(tokens.list, cursor);
  const [first, last] = [tokens.list[from], tokens.list[Math.min(tokens.list.length - 1, from + OVER)]];
  const range = picked ? { begin: picked[0], end: picked[1] } : first && last ? { begin: first.at, end: last.at + last.len } : null;
  const title = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const text = String(new FormData(form).get("title") ?? "").trim();
    if (text && range) edit.operate({ kind: "title", id: null, ...range, text, down: "middle" }, () => form.reset());
  };
  const here = page?.passages[tokens.passage[from] ?? -1]?.voice;
  const who = here ? voices.get(here) : undefined;
  const dress = (logo: boolean | null, bar: boolean | null) => edit.operate({ kind: "dressing", logo, bar });
  return (
    <>
      <Heading aside={graphics.length || undefined}>Names and titles</Heading>
      {graphics.length > 0 && (
        <ul className="mb-1.5 overflow-hidden rounded-md border border-line bg-paper" aria-label="Names and titles">
          {graphics.map((each) => (
            <Row key={each.id} graphic={each} {...{ edit, reveal }} />
          ))}
        </ul>
      )}
      <div className="flex flex-wrap gap-1.5">
        <Button hint="Name and role of everybody where they first speak" onClick={() => edit.operate({ kind: "lower thirds" })}>
          Name everybody
        </Button>
        <Button why={!range || !who ? "No voice is here" : false} hint="Over the words that are selected, else from the playhead on" onClick={() => range && who && edit.operate({ kind: "lower third", id: null, ...range, voice: who.id, name: "", role: "" })}>
          {who ? `Name ${who.shown}` : "Name who speaks"}
        </Button>
      </div>
      <form onSubmit={title} className="mt-1.5 flex gap-1.5">
        <TextField label="Words of a title" name="title" placeholder={picked ? "Title over these words" : "Title from here on"} maxLength={200} className="flex-1" />
        <Button type="submit" why={!range && "There are no words yet"}>
          Write it
        </Button>
      </form>
      <div className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1 text-soft">
        <label className="flex items-center gap-1.5">
          <Tick checked={dressing.logo} onChange={(logo) => dress(logo, dressing.own_bar)} /> logo in the corner
        </label>
        <label className="flex items-center gap-1.5">
          <Tick checked={dressing.bar} onChange={(bar) => dress(dressing.own_logo, bar)} /> bar of progress
        </label>
        {(dressing.own_logo !== null || dressing.own_bar !== null) && (
          <Button look="quiet" className="!px-1 !py-0 text-xs" onClick={() => dress(null, null)}>
            As the show has it
          </Button>
        )}
      </div>
    </>
  );
}

function Row({ graphic, edit, reveal }: { graphic: Graphic } & Pick<GraphicsProps, "edit" | "reveal">) {
  const [open, setOpen] = useState(false);
  const set = (next: Parameters<typeof changedGraphic>[1]) => edit.operate(changedGraphic(graphic, next));
  const isTitle = graphic.kind === "title";
  const show = () => {
    // In its middle: at its first moment nothing has come yet.
    const middle = Math.round((graphic.begin + graphic.end) / 2);
    player.seek(middle);
    reveal(middle);
    setOpen(!open);
  };
  const named = (name: string, role: string) => (name !== graphic.name || role !== graphic.role) && set({ name, role });
  return (
    <li className="border-b border-line px-2 py-1 last:border-0">
      <div className="flex items-center gap-1.5">
        <button type="button" aria-expanded={open} className="min-w-0 flex-1 truncate text-left hover:text-blue" title="Show it there" onClick={show}>
          {graphic.text} <span className="text-soft">{isTitle ? "title" : "name"}</span>
        </button>
        <Button look="quiet" className="!px-1" aria-label={`Take “${graphic.text}” off`} onClick={() => edit.operate({ kind: "graphic off", id: graphic.id })}>
          <Trash2 size={13} />
        </Button>
      </div>
      {open && isTitle && (
        <div className="space-y-1 py-1">
          <Kept label="Words of the title" value={graphic.text} keep={(text) => text && set({ text })} />
          <Line label="place">
            <Pick label="Place of the title" value={graphic.down} options={PLACES} onChange={(down) => set({ down })} />
          </Line>
        </div>
      )}
      {open && !isTitle && (
        <div className="space-y-1 py-1">
          <Kept label="Another name here" value={graphic.name} placeholder="as the voice is called" keep={(name) => named(name, graphic.role)} />
          <Kept label="Another role here" value={graphic.role} placeholder="as the voice has it" keep={(role) => named(graphic.name, role)} />
        </div>
      )}
    </li>
  );
}

/** A line of text that counts once Enter is pressed or it is left. */
function Kept({ label, value, placeholder, keep }: { label: string; value: string; placeholder?: string; keep: (text: string) => unknown }) {
  const take = (text: string) => text.trim() !== value && keep(text.trim());
  return (
    <TextField
      key={value}
      label={label}
      defaultValue={value}
      placeholder={placeholder}
      maxLength={200}
      className="w-full"
      onBlur={(event) => take(event.target.value)}
      onKeyDown={(event) => event.key === "Enter" && take(event.currentTarget.value)}
    />
  );
}
