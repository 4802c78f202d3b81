import { SpellCheck, X } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, type Episode } from "../../api/client";
import { keys } from "../../api/queries";
import { tellDone, useEpisodeChange } from "../../desk/change";
import { Button, Heading } from "../../ui/controls";
import { Pick, TextField } from "../../ui/fields";

type Style = Episode["numbers"];
const STYLES: [Style, string][] = [
  ["heard", "As heard"],
  ["figures", "In figures (32)"],
  ["words", "In words (thirty-two)"],
];
const SAID: Record<Style, string> = { heard: "stay as they are heard", figures: "are written in figures", words: "are written in words" };

/** The show's own names and terms: put right wherever they are misheard, now and in every transcript to come. */
export function Spellings({ episode }: { episode: Episode }) {
  const [term, setTerm] = useState("");
  const [heard, setHeard] = useState("");
  const stale = [keys.episode(episode.id)];
  const put = (body: { term: string; heard: string[] }) => got(client.POST("/api/shows/{show_id}/spellings", { params: { path: { show_id: episode.show_id } }, body }));
  const add = useEpisodeChange(episode.id, put);
  const remove = useEpisodeChange(episode.id, (spelling_id: string) => got(client.DELETE("/api/spellings/{spelling_id}", { params: { path: { spelling_id } } })));
  const apply = useEpisodeChange(episode.id, () => got(client.POST("/api/episodes/{episode_id}/spell", { params: { path: { episode_id: episode.id } } })));
  const style = (numbers: Style) => got(client.PATCH("/api/shows/{show_id}", { params: { path: { show_id: episode.show_id } }, body: { name: null, about: null, deleted: null, numbers, colours: null } }));
  const write = useEpisodeChange(episode.id, style);
  // The server takes the same for full names.
  const listed = new Set(episode.spellings.map((each) => each.term.toLowerCase()));
  const names = episode.voices.map((voice) => voice.name).filter((name) => /^\p{Lu}\S*\p{L}( \p{Lu}\S*\p{L})+$/u.test(name) && !listed.has(name.toLowerCase()));
  const busy = episode.jobs.some((job) => job.kind === "spell" && (job.state === "queued" || job.state === "running"));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!term.trim()) return;
    const body = { term: term.trim(), heard: heard.split(",").map((each) => each.trim()).filter(Boolean) };
    add.run(body, () => {
      setTerm("");
      setHeard("");
    });
  };
  return (
    <section aria-label="House spellings">
      <Heading aside={episode.spellings.length ? `${episode.spellings.length}` : undefined}>House spellings</Heading>
      {episode.spellings.length === 0 && <p className="mb-1.5 leading-snug text-soft">Names and terms of this show, corrected wherever they are misheard.</p>}
      <ul className="mb-1.5 flex flex-wrap gap-1">
        {episode.spellings.map((spelling) => (
          <li key={spelling.id} className="flex items-center gap-1 rounded-full border border-line bg-paper py-0.5 pr-1 pl-2.5 font-serif" title={spelling.heard.length ? `misheard as ${spelling.heard.join(", ")}` : undefined}>
            {spelling.term}
            <button type="button" aria-label={`Take ${spelling.term} off the list`} className="rounded-full p-0.5 text-soft hover:text-ink" onClick={() => remove.run(spelling.id, () => tellDone({ text: `“${spelling.term}” is no longer a house spelling`, undo: () => put({ term: spelling.term, heard: spelling.heard }) }, stale))}>
              <X size={12} />
            </button>
          </li>
        ))}
      </ul>
      <form onSubmit={submit} className="flex gap-1.5">
        <TextField label="Name or term" value={term} placeholder="Name or term" maxLength={80} onChange={setTerm} className="flex-1" />
        <TextField label="Misheard as" value={heard} placeholder="misheard as" maxLength={200} onChange={setHeard} className="flex-1" />
        <Button type="submit" why={!term.trim() && "Write a name or a term first"}>
          Add
        </Button>
      </form>
      {names.length > 0 && <p className="mt-1.5 leading-snug text-soft">The names of the voices count as well: {names.join(", ")}.</p>}
      <label className="mt-2 flex items-center gap-2">
        Numbers
        <Pick label="Numbers" value={episode.numbers} options={STYLES} onChange={(numbers) => write.run(numbers, () => tellDone({ text: `Numbers ${SAID[numbers]}`, undo: () => style(episode.numbers) }, stale))} />
      </label>
      {(episode.spellings.length + names.length > 0 || episode.numbers !== "heard") && (
        <Button className="mt-1.5" disabled={busy} hint="One step; can be undone" onClick={() => apply.run()}>
          <SpellCheck size={14} /> {busy ? "Looking through the words …" : "Put this episode right"}
        </Button>
      )}
    </section>
  );
}
