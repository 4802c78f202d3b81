/** Notes beside the words: written, answered, given to somebody, ticked off; and cuts that are suggested, which an editor accepts. */
import { Check, MessageSquareText, Scissors } from "lucide-react";
import { Popover } from "radix-ui";
import { useState, type FormEvent } from "react";
import { author } from "../api/author";
import { client, got, type Episode, type PageWords } from "../api/client";
import type { SchemaNoteOut as Note } from "../api/schema";
import { clock } from "../api/time";
import { desk } from "../desk/desk";
import { here, playhead, select } from "../desk/place";
import { useMay } from "../desk/rights";
import { Button } from "../ui/controls";
import { Pick, Tick } from "../ui/fields";
import type { Edit } from "./edit";
import type { PageMark, Placed } from "./marks";
import { placed, stands } from "./standing";
import type { Scene } from "./scene";
import { changeMarks } from "./Selects";
import { useTimeAt } from "./times";
import { indexAt, selected } from "./tokens";

const AREA = "w-full rounded-md border border-line bg-paper px-2 py-1.5 font-serif text-[15px] leading-snug";

type People = Episode["people"];

/** Who a note is given to; nothing where nobody else has an account here. */
function To({ people, value, onChange }: { people: People; value: string; onChange: (to: string) => void }) {
  if (!people.length) return null;
  return <Pick label="For" value={value} options={[["", "for nobody in particular"], ...people.map(({ id, name }) => [id, `for ${name}`] as const)]} onChange={onChange} />;
}

/** Write a note beside what is selected, or beside the word at the playhead; or suggest to cut what is selected. */
export function NewNote({ episode, scene, cut = false }: { episode: Episode; scene: Scene; cut?: boolean }) {
  const { tokens, head } = scene;
  const [to, setTo] = useState("");
  const picked = selected(tokens.list, here().selection);
  const laid = picked?.[0] ?? tokens.list[indexAt(tokens.list, playhead())]?.at ?? 0;
  const write = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("note")).trim();
    if (!text) return;
    const params = { path: { episode_id: episode.id } };
    const cuts = cut && picked ? [{ begin: picked[0], end: picked[1] }] : [];
    const write = () => got(client.POST("/api/episodes/{episode_id}/notes", { params, body: { edition: head.id, laid, text, cuts, to, ...author() } }));
    if (await changeMarks(write, cut ? "Suggested a cut" : "Added a note")) desk().set({ panel: null, draft: "" });
  };
  return (
    <form onSubmit={(event) => void write(event)} className="space-y-2">
      <textarea name="note" autoFocus rows={4} maxLength={4000} defaultValue={desk().draft} aria-label={cut ? "Why it could go" : "Note"} className={AREA} />
      <div className="flex gap-1.5">
        <Button type="submit" look="strong">
          {cut ? "Suggest the cut" : "Add note"}
        </Button>
        <To people={episode.people} value={to} onChange={setTo} />
      </div>
    </form>
  );
}

interface Of {
  episode: Pick<Episode, "id" | "people">;
  edit: Edit;
  /** Where what it suggests to cut stands now, in laid time. */
  cuts: readonly (readonly [number, number])[];
}

/** Where what a note suggests to cut stands on a page. */
export const cutsOf = (note: Note, page: Pick<PageWords, "passages">) =>
  note.cuts.flatMap(({ recording, start, end }) => placed(page.passages, note.id, recording, start, end).map((at) => [at.begin, at.end] as const));

/** The mark of a note where it is placed on the page, with a wash over what it suggests to cut. */
export const noteMarks = (of: Of, note: Note, { id, begin }: Placed): PageMark[] => [
  { id, lane: "margin", begin, end: begin + 1, look: "note", label: titleOf(note), drawn: <Opened {...of} note={note} /> },
  ...(note.done ? [] : of.cuts.map(([first, last]) => ({ id: `cut ${id} ${first}`, lane: "over" as const, begin: first, end: last, look: "suggested", label: titleOf(note) }))),
];

const titleOf = (note: Note) => `${note.cuts.length ? "Suggested cut" : "Note"}${note.done ? ", done" : ""}: ${note.text}`;

/** What can be done to a note. */
function useNote(episode: Of["episode"], note: Note) {
  const params = { path: { episode_id: episode.id, mark_id: note.id } };
  const change = (what: { text?: string; to?: string; done?: boolean }, text: string) =>
    changeMarks(() => got(client.PATCH("/api/episodes/{episode_id}/notes/{mark_id}", { params, body: { text: null, to: null, done: null, ...what, ...author() } })), text);
  return {
    change,
    done: (done: boolean) => change({ done }, done ? "Ticked off the note" : "Opened the note again"),
    answer: (text: string) => changeMarks(() => got(client.POST("/api/episodes/{episode_id}/notes/{mark_id}/answers", { params, body: { text, ...author() } })), "Answered the note"),
    remove: () => changeMarks(() => got(client.DELETE("/api/episodes/{episode_id}/notes/{mark_id}", { params: { ...params, query: author() } })), "Deleted the note"),
  };
}

/** A note, which opens beside its line. */
function Opened({ note, ...of }: Of & { note: Note }) {
  const [open, setOpen] = useState(false);
  const Sign = note.cuts.length ? Scissors : MessageSquareText;
  const name = titleOf(note);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger aria-label={name} title={note.who ? `${note.who}: ${note.text}` : note.text} className={note.done ? "text-soft hover:text-ink" : "text-plum hover:text-ink"}>
        <Sign size={15} />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content side="left" align="start" className="z-40 w-80 rounded-lg border border-line bg-paper p-3 text-ink shadow-lg" onKeyDown={(event) => event.stopPropagation()}>
          <Card {...of} note={note} close={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

/** A note with its answers, and what can be done about it. */
function Card({ episode, edit, cuts, note, close }: Of & { note: Note; close: () => void }) {
  const act = useNote(episode, note);
  const edits = useMay("edit");
  const writes = useMay("note");
  const save = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("note")).trim();
    if (text && (text === note.text || (await act.change({ text }, "Changed a note")))) close();
  };
  const answer = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const form = event.currentTarget;
    const text = String(new FormData(form).get("answer")).trim();
    if (text && (await act.answer(text))) form.reset();
  };
  const accept = () => {
    edit.strike(cuts);
    void act.done(true);
    close();
  };
  return (
    <div className="space-y-2">
      <p className="flex items-center justify-between gap-2 text-soft">
        <span>
          {note.who}
          {note.to_name && ` for ${note.to_name}`}
        </span>
        {writes && (
          <label className="flex items-center gap-1.5">
            <Tick checked={note.done} onChange={(done) => void act.done(done)} /> Done
          </label>
        )}
      </p>
      <form onSubmit={(event) => void save(event)} className="space-y-2">
        <textarea name="note" defaultValue={note.text} readOnly={!writes} rows={3} maxLength={4000} aria-label="Note" className={AREA} />
        {note.answers.map(({ who, text, at }) => (
          <p key={at + text} className="border-l-2 border-line pl-2 leading-snug">
            <span className="text-soft">{who || "Answer"}:</span> {text}
          </p>
        ))}
        {edits && note.cuts.length > 0 && !note.done && (
          <Button look="strong" why={!cuts.length && "What it is about is not in this edition"} onClick={accept}>
            <Check size={14} /> Accept the cut
          </Button>
        )}
        {writes && (
          <div className="flex flex-wrap gap-1.5">
            <Button type="submit">Save</Button>
            <Button onClick={() => void act.remove()}>Delete note</Button>
            <To people={episode.people} value={note.to} onChange={(to) => void act.change({ to }, to ? "Gave the note on" : "The note is for nobody in particular now")} />
          </div>
        )}
      </form>
      {writes && (
        <form onSubmit={(event) => void answer(event)} className="flex gap-1.5">
          <input name="answer" aria-label="Answer" placeholder="Answer" maxLength={4000} className="min-w-0 flex-1 rounded-md border border-line bg-paper px-2 py-1 placeholder:text-soft" />
          <Button type="submit">Send</Button>
        </form>
      )}
    </div>
  );
}

/** All notes of the episode, those that are open first; a click goes to where one stands. */
export function NoteList({ episode, scene, page }: { episode: Episode; scene: Scene; page: PageWords }) {
  const [mine, setMine] = useState(false);
  const [done, setDone] = useState(false);
  const timeAt = useTimeAt();
  const listed = episode.notes.filter((note) => (done || !note.done) && (!mine || note.to === desk().me)).map((note) => ({ note, at: stands(page.passages, note)[0]?.begin ?? null }));
  listed.sort((one, other) => Number(one.note.done) - Number(other.note.done) || (one.at ?? Infinity) - (other.at ?? Infinity));
  const closed = episode.notes.filter((note) => note.done).length;
  const go = (at: number) => {
    desk().set({ panel: null });
    select({ anchor: at, focus: at });
    scene.reveal(at);
  };
  return (
    <div className="space-y-3">
      <div className="flex gap-4 text-soft">
        {episode.people.length > 0 && (
          <label className="flex items-center gap-1.5">
            <Tick checked={mine} onChange={setMine} /> Only those for me
          </label>
        )}
        {closed > 0 && (
          <label className="flex items-center gap-1.5">
            <Tick checked={done} onChange={setDone} /> Show the {closed} that {closed === 1 ? "is" : "are"} done
          </label>
        )}
      </div>
      {listed.length === 0 && <p className="text-soft">{episode.notes.length ? "No open notes." : "No notes yet. Select words and press Ctrl+M to write one."}</p>}
      <ul aria-label="Notes" className="divide-y divide-line border-y border-line empty:hidden">
        {listed.map(({ note, at }) => (
          <NoteLine key={note.id} episode={episode} note={note} at={at} time={at === null ? "not in this edition" : clock(timeAt(at))} go={go} />
        ))}
      </ul>
    </div>
  );
}

function NoteLine({ episode, note, at, time, go }: { episode: Of["episode"]; note: Note; at: number | null; time: string; go: (at: number) => void }) {
  const act = useNote(episode, note);
  const writes = useMay("note");
  return (
    <li className="flex items-start gap-2.5 py-2">
      {writes && <Tick label={`Done: ${note.text}`} checked={note.done} onChange={(done) => void act.done(done)} />}
      <div className="min-w-0 flex-1 leading-snug">
        <button type="button" disabled={at === null} onClick={() => at !== null && go(at)} className="text-left font-serif text-[15px] enabled:hover:text-blue">
          {note.cuts.length > 0 && <Scissors size={13} aria-label="Suggested cut" className="mr-1 inline text-red" />}
          {note.text}
        </button>
        <p className="text-xs text-soft">
          {[note.who, note.to_name && `for ${note.to_name}`, time, note.answers.length > 0 && `${note.answers.length} ${note.answers.length === 1 ? "answer" : "answers"}`].filter(Boolean).join(" · ")}
        </p>
      </div>
    </li>
  );
}
