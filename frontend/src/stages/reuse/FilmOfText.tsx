/** From an article to a short film: a text is pasted or dropped, sentences of it are proposed and corrected, and a film is made. */
import clsx from "clsx";
import { CircleStop, FileText } from "lucide-react";
import { useEffect, useRef, useState, type DragEvent } from "react";
import { author } from "../../api/author";
import { asItIs, client, got, type Episode } from "../../api/client";
import { useEpisode } from "../../api/queries";
import { clock, RATE } from "../../api/time";
import { useEpisodeChange, useWork } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import type { Scene } from "../../page/scene";
import { Button, Heading, Progress, Trouble } from "../../ui/controls";
import { Line, Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { decide, decidedFor, isTold, useFilm, type Sentence } from "./film";
import { openMade } from "./reuse";

type Shape = "wide" | "square" | "upright" | "tall";

const SHAPES: readonly (readonly [Shape, string])[] = [
  ["wide", "wide 16:9"],
  ["upright", "upright 9:16"],
  ["square", "square 1:1"],
  ["tall", "tall 4:5"],
];

export function FilmOfText({ scene }: { scene: Scene }) {
  const episode = useEpisode(scene.head.episode_id).data;
  const sentences = useFilm((state) => state.sentences);
  if (!episode) return null;
  return (
    <div className="grid grid-cols-[1fr_250px] gap-5">
      {sentences ? <Sentences sentences={sentences} /> : <Text />}
      <Making episode={episode} />
    </div>
  );
}

/** Proposes sentences around those that a person decided about. */
const propose = () => {
  const { text, seconds, decided } = useFilm.getState();
  const body = { text, length: seconds * RATE, pinned: decidedFor(decided, true), refused: decidedFor(decided, false) };
  return got(client.POST("/api/articles/sentences", { body })).then(({ sentences }) => useFilm.setState({ sentences }), failed);
};

function Text() {
  const text = useFilm((state) => state.text);
  const chooser = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const read = (file: File | undefined) =>
    file && got(client.POST("/api/articles", { params: { query: { name: file.name } }, ...asItIs(file) })).then((found) => useFilm.setState({ text: found.text, decided: {} }), failed);
  const drop = (event: DragEvent) => {
    event.preventDefault();
    setOver(false);
    void read(event.dataTransfer.files[0]);
  };
  return (
    <section aria-label="The text" onDragOver={(event) => (event.preventDefault(), setOver(true))} onDragLeave={() => setOver(false)} onDrop={drop}>
      <p className="mb-1.5 flex items-center gap-2 text-soft">
        <span className="flex-1">Paste a text, or drop a file: text, Markdown, HTML or DOCX.</span>
        <Button onClick={() => chooser.current?.click()}>
          <FileText size={13} /> Open a file …
        </Button>
        <input ref={chooser} type="file" hidden aria-label="File with a text" accept=".txt,.md,.markdown,.html,.htm,.docx,text/*" onChange={(event) => void read(event.target.files?.[0])} />
      </p>
      <textarea
        aria-label="Text of which a film is made"
        value={text}
        onChange={(event) => useFilm.setState({ text: event.target.value, decided: {} })}
        className={clsx("h-[52vh] w-full resize-none rounded-md border bg-paper p-2.5 font-serif leading-relaxed", over ? "border-blue" : "border-line")}
      />
      <p className="mt-2 text-right">
        <Button look={text.trim() ? "strong" : "plain"} why={!text.trim() && "There is no text yet"} onClick={() => void propose()}>
          Propose sentences
        </Button>
      </p>
    </section>
  );
}

/** The text, of which every sentence can be clicked: what is told is washed, what is not is faint. */
function Sentences({ sentences }: { sentences: readonly Sentence[] }) {
  const decided = useFilm((state) => state.decided);
  const numbered = sentences.map((sentence, number) => ({ ...sentence, number }));
  const paragraphs = [...new Set(sentences.map((each) => each.paragraph))].map((paragraph) => numbered.filter((each) => each.paragraph === paragraph));
  return (
    <section aria-label="Sentences of the text">
      <p className="mb-1.5 text-soft">What is told is washed. Click a sentence to tell it, or not.</p>
      <div className="h-[52vh] space-y-2.5 overflow-y-auto rounded-md border border-line px-3 py-2.5 font-serif leading-relaxed">
        {paragraphs.map((group) => (
          <p key={group[0]?.number}>
            {group.map(({ text, number }) => {
              const told = isTold({ sentences, decided }, number);
              return (
                // Not a button: those do not break over lines as text does.
                <span
                  key={number}
                  role="button"
                  tabIndex={0}
                  aria-pressed={told}
                  onClick={() => decide(number, !told)}
                  onKeyDown={(event) => {
                    if (event.key !== "Enter" && event.key !== " ") return;
                    event.preventDefault();
                    decide(number, !told);
                  }}
                  className={clsx("cursor-pointer rounded-sm box-decoration-clone px-0.5 hover:outline hover:outline-soft", told ? "bg-pick text-ink" : "text-soft", number in decided && "underline decoration-dotted underline-offset-4")}
                >
                  {text}{" "}
                </span>
              );
            })}
          </p>
        ))}
      </div>
      <p className="mt-2 flex justify-end gap-1.5">
        <Button onClick={() => useFilm.setState({ sentences: null })}>Change the text</Button>
        <Button hint="Others, around those you decided about (underlined)" onClick={() => void propose()}>
          Propose again
        </Button>
      </p>
    </section>
  );
}

function Making({ episode }: { episode: Episode }) {
  const { sentences, decided, seconds } = useFilm();
  const [name, setName] = useState("Film");
  const [reader, setReader] = useState("machine");
  const [shape, setShape] = useState<Shape>("wide");
  const [titles, setTitles] = useState(false);
  const [pictures, setPictures] = useState(true);
  const [music, setMusic] = useState("");
  const told = sentences?.filter((_, number) => isTold({ sentences, decided }, number)) ?? [];
  const length = told.reduce((sum, each) => sum + each.length, 0);
  const job = episode.jobs.find((each) => each.kind === "told" && each.state !== "cancelled");
  const work = useWork(episode.id);
  useMade(episode, Boolean(job && job.state !== "failed"));
  const make = useEpisodeChange(episode.id, async () => {
    const sound = music === "library" ? await fromLibrary(episode.id, seconds * RATE) : music;
    const body = { name: name.trim() || "Film", sentences: told.map((each) => each.text), reader, shape, titles, pictures, music: sound, length: seconds * RATE, ...author() };
    return got(client.POST("/api/episodes/{episode_id}/films", { params: { path: { episode_id: episode.id } }, body }));
  });
  const readings = episode.recordings.filter((each) => each.kind === "speech" && each.transcript === "done");
  const own = episode.recordings.filter((each) => each.kind === "music");
  const busy = job && job.state !== "failed";
  return (
    <section aria-label="The film" className="space-y-1.5">
      <Heading>The film</Heading>
      <Line label="length">
        <NumberField label="Length of the film in seconds" unit="s" least={1} most={3600} step={5} value={seconds} onChange={(wanted) => useFilm.setState({ seconds: wanted })} className="w-14" />
      </Line>
      {sentences && (
        <p className="leading-snug text-soft">
          {told.length} of {sentences.length} sentences, some <span className="font-mono text-ink">{clock(length)}</span>
        </p>
      )}
      <Line label="called">
        <TextField label="Name of the film" value={name} maxLength={200} onChange={setName} className="w-36" />
      </Line>
      <Line label="read by">
        <Pick label="Who reads it" value={reader} options={[["machine", "a machine"], ["nobody", "nobody (silent)"], ...readings.map((each) => [each.id, each.name] as const)]} onChange={setReader} className="w-36" />
      </Line>
      <Line label="shape">
        <Pick label="Shape of the film" value={shape} options={SHAPES} onChange={setShape} className="w-36" />
      </Line>
      <Line label="music">
        <Pick label="Music under the film" value={music} options={[["", "none"], ["library", "fitting, of the library"], ...own.map((each) => [each.id, each.name] as const)]} onChange={setMusic} className="w-36" />
      </Line>
      <label className="flex items-center gap-1.5">
        <Tick checked={pictures} onChange={setPictures} /> a picture for each sentence
      </label>
      <label className="flex items-center gap-1.5">
        <Tick checked={titles} onChange={setTitles} /> sentences as titles
      </label>
      <p className="leading-snug text-soft">{HINT[reader] ?? "Sentences are found in what was recorded; what is not read there is left out."}</p>
      {job?.state === "failed" && <Trouble>{job.trouble}</Trouble>}
      {busy ? (
        <div className="space-y-1.5">
          <Progress label="Sentences that are made" done={job.done} total={job.total} />
          <Button className="w-full" onClick={() => work.stop(job.id)}>
            <CircleStop size={14} /> Stop making it
          </Button>
        </div>
      ) : (
        <Button look={told.length ? "strong" : "plain"} className="w-full" why={(!told.length && "Nothing is told yet") || (make.busy && "It is being made")} onClick={() => make.run()}>
          Make the film
        </Button>
      )}
    </section>
  );
}

const HINT: Readonly<Record<string, string>> = {
  machine: "The packaged voice reads English. To read it yourself, record it under Gather and choose that here.",
  nobody: "Each sentence is seen as long as it takes to read: as a title, or as a caption that is burned in on export.",
};

/** Takes the sound of the library that fits a length into the episode; gives its recording. */
async function fromLibrary(episode_id: string, length: number): Promise<string> {
  const { sound } = await got(client.GET("/api/sounds/choice", { params: { query: { length, kind: "bed" } } }));
  return (await got(client.POST("/api/episodes/{episode_id}/sounds", { params: { path: { episode_id } }, body: { sound: sound.id } }))).id;
}

/** Opens the edition that comes when a film has been made. */
function useMade(episode: Episode, busy: boolean) {
  const before = useRef<ReadonlySet<string> | null>(null);
  const ids = episode.editions;
  useEffect(() => {
    if (busy) before.current ??= new Set(ids.map((each) => each.id));
    const made = before.current && ids.find((each) => !before.current?.has(each.id));
    if (!made) return;
    before.current = null;
    desk().set({ panel: null });
    openMade(made.id, `Made the film “${made.name}”`);
  }, [busy, ids]);
}
