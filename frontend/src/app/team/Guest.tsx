/** What a guest sees: one edition to read and hear, and their own notes on it. */
import clsx from "clsx";
import { MessageSquareText, Pause, Play, Scissors, Trash2 } from "lucide-react";
import { Tooltip } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState, type FormEvent } from "react";
import { author } from "../../api/author";
import { client, got, type Episode, type Head, type PageWords, type Plan } from "../../api/client";
import { arrived, leave, type Me } from "../../api/me";
import { useEpisode, useHead, usePageWords, usePlan } from "../../api/queries";
import { clock } from "../../api/time";
import { useChange, useEpisodeChange } from "../../desk/change";
import { desk, failed, useDesk } from "../../desk/desk";
import { arrive } from "../../desk/place";
import { useReading } from "../../page/reading";
import { flatten } from "../../page/tokens";
import { toProgramme } from "../../player/places";
import { player } from "../../player/player";
import { Button, Trouble } from "../../ui/controls";
import { Now } from "../Now";
import { Said } from "../Said";
import { Entrance, Field, secret, typed } from "./parts";

/** Coming in by a link: a guest says what they are called. */
export function Enter() {
  const [link] = useState(secret);
  const [trouble, setTrouble] = useState("");
  const enter = useChange(
    [],
    (name: string) => got(client.POST("/api/guests/enter", { body: { secret: link, name } })),
    (error) => (setTrouble(error.message), true),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => enter.run(typed(event)["name"] ?? "", arrived);
  return (
    <Entrance title="Listen and comment">
      <form onSubmit={submit} className="space-y-3">
        <Field label="Your name" name="name" autoComplete="name" about="It stands beside what you write." focus />
        {trouble && <Trouble>{trouble}</Trouble>}
        <Button type="submit" look="strong" disabled={enter.busy}>
          Come in
        </Button>
      </form>
    </Entrance>
  );
}

/** So often it is looked whether the edition was changed, in milliseconds. */
const LOOK = 15_000;

export function Guest({ me }: { me: Me }) {
  const episode = useEpisode(me.episode);
  const head = useHead(me.edition);
  const page = usePageWords(me.edition, head.data?.layout);
  const plan = usePlan(me.edition, "edited", head.data?.revision ?? 0);
  const { refetch } = head;
  useEffect(() => {
    const looking = setInterval(() => void refetch(), LOOK);
    return () => clearInterval(looking);
  }, [refetch]);
  const trouble = episode.error ?? head.error;
  if (trouble) {
    return (
      <Entrance title="This link has ended">
        <Trouble>{trouble.message}</Trouble>
      </Entrance>
    );
  }
  if (!episode.data || !head.data || !page.data || !plan.data) return null;
  return <Listening me={me} episode={episode.data} head={head.data} page={page.data} plan={plan.data} />;
}

interface ListeningProps {
  me: Me;
  episode: Episode;
  head: Head;
  page: PageWords;
  plan: Plan;
}

type Range = readonly [number, number];

function Listening({ me, episode, head, page, plan }: ListeningProps) {
  const playing = useDesk((state) => state.playing);
  const tokens = useMemo(() => flatten(page), [page]);
  const voices = useMemo(() => new Map(episode.voices.map((voice) => [voice.id, voice])), [episode.voices]);
  const scroller = useRef<HTMLDivElement>(null);
  const [picked, setPicked] = useState<Range | null>(null);
  useEffect(() => {
    arrive();
    return () => player.pause();
  }, []);
  useEffect(() => player.use(head.id, "edited", plan), [head.id, plan]);
  useEffect(() => {
    document.title = `${episode.title} – ${episode.show} – Jaskel`;
  }, [episode.title, episode.show]);
  const reveal = useCallback((laid: number) => scroller.current?.querySelector(`[data-at="${laid}"]`)?.scrollIntoView({ block: "nearest", behavior: "smooth" }), []);
  useReading(scroller, tokens, reveal);
  const pick = () => {
    const selection = window.getSelection();
    if (!selection || selection.isCollapsed) return;
    const within = tokens.list.filter((token) => {
      const element = scroller.current?.querySelector(`[data-at="${token.at}"]`);
      return element && selection.containsNode(element, true);
    });
    const [first, last] = [within[0], within.at(-1)];
    if (first && last) setPicked([first.at, last.at + last.len]);
  };
  return (
    <Tooltip.Provider>
      <div className="grid h-full grid-cols-[minmax(0,1fr)_320px] grid-rows-[48px_minmax(0,1fr)]">
        <header className="bar col-span-2 flex items-center gap-3 bg-bar px-3.5 text-bartext">
          <span className="font-serif text-base font-semibold tracking-wide">Jaskel</span>
          <h1 className="min-w-0 flex-1 truncate text-barsoft">
            {episode.show} / {episode.title} / {head.name}
          </h1>
          <button type="button" aria-label={playing ? "Pause" : "Play"} onClick={() => player.toggle()} className="grid size-8 place-items-center rounded-full bg-bartext text-[#20262b]">
            {playing ? <Pause size={15} fill="currentColor" /> : <Play size={15} fill="currentColor" className="ml-0.5" />}
          </button>
          <span className="font-mono text-xs">
            <Now plan={plan} /> of <output aria-label="Running time">{clock(head.running_time)}</output>
          </span>
          <span className="text-barsoft">{me.name}</span>
          <Button look="bar" onClick={() => void leave().catch(failed)}>
            Leave
          </Button>
        </header>
        <main className="min-h-0 bg-paper">
          {/* eslint-disable-next-line jsx-a11y/no-static-element-interactions -- selecting text by mouse; by key each passage has its button */}
          <div ref={scroller} onMouseUp={pick} className="h-full overflow-y-auto py-6 pr-6">
            {page.passages.map((passage) => {
              const [first, last] = [passage.tokens[0], passage.tokens.at(-1)];
              const name = voices.get(passage.voice ?? "")?.name ?? "";
              const all: Range | null = first && last ? [first.at, last.at + last.len] : null;
              return (
                <article key={passage.at} aria-label={`${name || "Passage"} at ${clock(toProgramme(plan, passage.at))}`} className="grid max-w-3xl grid-cols-[88px_minmax(0,1fr)_28px] gap-x-3 py-1.5">
                  <p className="pt-1 text-right text-xs leading-5 text-soft">
                    <span className="font-mono">{clock(toProgramme(plan, passage.at))}</span>
                    {name && <span className="block truncate">{name}</span>}
                  </p>
                  <p className="font-serif text-[17px] leading-7">
                    {passage.tokens.map((token) =>
                      token.k === "w" ? (
                        // eslint-disable-next-line jsx-a11y/click-events-have-key-events, jsx-a11y/no-static-element-interactions -- a place to play from; the notes name places by key
                        <span key={token.at} data-token data-at={token.at} className={clsx("heard-word", picked && token.at >= picked[0] && token.at < picked[1] && "picked")} onClick={() => window.getSelection()?.isCollapsed && player.seek(token.at)}>
                          {token.text}{" "}
                        </span>
                      ) : null,
                    )}
                  </p>
                  <Button look="quiet" className="self-start !px-1" aria-label="Comment on this passage" hint="Comment on this passage" onClick={() => setPicked(all)}>
                    <MessageSquareText size={14} />
                  </Button>
                </article>
              );
            })}
          </div>
        </main>
        <aside aria-label="Your notes" className="min-h-0 overflow-y-auto border-l border-line bg-side p-4">
          <Write key={picked?.join()} episode={episode} head={head} tokens={tokens.list} picked={picked} done={() => setPicked(null)} />
          <h2 className="mt-5 mb-2 font-serif text-[15px] font-semibold">Your notes</h2>
          {episode.notes.length === 0 && <p className="text-soft">None yet.</p>}
          <ul className="space-y-2">
            {episode.notes.map((note) => (
              <Own key={note.id} episode={episode.id} note={note} />
            ))}
          </ul>
        </aside>
        <Said />
      </div>
    </Tooltip.Provider>
  );
}

interface WriteProps {
  episode: Episode;
  head: Head;
  tokens: PageWords["passages"][number]["tokens"];
  picked: Range | null;
  done: () => void;
}

/** A comment on what is selected, or a cut that is suggested. */
function Write({ episode, head, tokens, picked, done }: WriteProps) {
  const [text, setText] = useState("");
  const write = useEpisodeChange(episode.id, (cut: boolean) => {
    const [begin, end] = picked ?? [0, 0];
    const cuts = cut ? [{ begin, end }] : [];
    return got(client.POST("/api/episodes/{episode_id}/notes", { params: { path: { episode_id: episode.id } }, body: { edition: head.id, laid: begin, text: text.trim(), cuts, to: "", ...author() } }));
  });
  const send = (cut: boolean) =>
    write.run(cut, () => {
      setText("");
      done();
    });
  if (!picked) return <p className="leading-snug text-soft">Select words to comment on them, or click a word to hear from there.</p>;
  const said = tokens.filter((token) => token.k === "w" && token.at >= picked[0] && token.at < picked[1]).map((token) => token.text);
  const quoted = said.length > 12 ? `${said.slice(0, 6).join(" ")} … ${said.slice(-4).join(" ")}` : said.join(" ");
  const why = !text.trim() && "Write a word about it first";
  return (
    <div className="space-y-2">
      <p className="font-serif leading-snug text-soft">“{quoted}”</p>
      <textarea autoFocus rows={3} maxLength={4000} value={text} onChange={(event) => setText(event.target.value)} aria-label="Your comment" className="w-full rounded-md border border-line bg-paper px-2 py-1.5 font-serif" />
      <div className="flex flex-wrap gap-1.5">
        <Button look="strong" why={why} onClick={() => send(false)}>
          <MessageSquareText size={14} /> Comment
        </Button>
        <Button why={why} onClick={() => send(true)}>
          <Scissors size={14} /> Suggest cutting this
        </Button>
        <Button look="quiet" onClick={done}>
          Cancel
        </Button>
      </div>
    </div>
  );
}

function Own({ episode, note }: { episode: string; note: Episode["notes"][number] }) {
  const params = { path: { episode_id: episode, mark_id: note.id }, query: author() };
  const remove = useEpisodeChange(episode, () => got(client.DELETE("/api/episodes/{episode_id}/notes/{mark_id}", { params })));
  return (
    <li className="rounded-md border border-line bg-paper px-2.5 py-2">
      <p className="flex items-start gap-1.5 leading-snug">
        {note.cuts.length > 0 && <Scissors size={13} className="mt-0.5 shrink-0 text-red" aria-label="A suggested cut" />}
        <span className="flex-1">{note.text}</span>
        <button type="button" aria-label={`Delete note: ${note.text}`} className="text-soft hover:text-ink" onClick={() => remove.run(undefined, () => desk().say("Deleted the note"))}>
          <Trash2 size={13} />
        </button>
      </p>
      {note.answers.map((answer) => (
        <p key={answer.at + answer.text} className="mt-1 border-l-2 border-line pl-2 leading-snug text-soft">
          {answer.who}: {answer.text}
        </p>
      ))}
      {note.done && <p className="text-xs text-green">Done</p>}
    </li>
  );
}
