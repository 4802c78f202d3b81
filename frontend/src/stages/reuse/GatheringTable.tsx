/** The gathering table: the selects of the whole show on the left; on the right those that were laid down, in the order of a story. */
import { useQuery } from "@tanstack/react-query";
import clsx from "clsx";
import { GripVertical, Plus, Scissors, X } from "lucide-react";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { Link } from "wouter";
import { author } from "../../api/author";
import { client, got } from "../../api/client";
import { hrefOf, useEpisode } from "../../api/queries";
import { clock, RATE } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { drag } from "../../page/drag";
import { COLOURS } from "../../page/Selects";
import type { Scene } from "../../page/scene";
import { Button } from "../../ui/controls";
import { Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Hear } from "./Hear";
import { clear, lay, lengthOf, move, split, takeAway, trim, useCards, type Card, type Gathered } from "./gathering";
import { openMade } from "./reuse";

type Colour = (typeof COLOURS)[number];

export function GatheringTable({ scene }: { scene: Scene }) {
  const episode = useEpisode(scene.head.episode_id).data;
  return episode ? <Table show={episode.show_id} episode={episode.id} folder={episode.folder} colours={episode.colours} /> : null;
}

function Table({ show, episode, folder, colours }: { show: string; episode: string; folder: string; colours: Readonly<Partial<Record<Colour, string>>> }) {
  const [text, setText] = useState("");
  const [colour, setColour] = useState<Colour | "">("");
  const [here, setHere] = useState<"show" | "folder" | "episode">("show");
  const [meaning, setMeaning] = useState(false);
  const found = useQuery({
    queryKey: ["gathered", show, text, colour, meaning, here, episode],
    queryFn: () => got(client.GET("/api/shows/{show_id}/selects", { params: { path: { show_id: show }, query: { text, meaning, colour: colour || null, episode: here === "episode" ? episode : "", folder: here === "folder" ? folder : "" } } })),
    placeholderData: (known) => known,
  });
  const named = (each: Colour) => (colours[each] ? `${colours[each]} (${each})` : each);
  return (
    <div className="grid grid-cols-2 gap-5">
      <section aria-label="Selects of the show">
        <div className="mb-2 flex gap-1.5">
          <TextField label="Words in them" placeholder="Words in them" value={text} onChange={setText} className="min-w-0 flex-1" />
          <Pick label="Colour" value={colour} options={[["", "any colour"], ...COLOURS.map((each) => [each, named(each)] as const)]} onChange={setColour} />
          <Pick label="From where" value={here} options={[["show", "whole show"], ...(folder ? [["folder", folder] as const] : []), ["episode", "this episode"]]} onChange={setHere} />
        </div>
        <label className="mb-2 flex items-center gap-1.5 text-soft">
          <Tick checked={meaning} onChange={setMeaning} /> find what says something like it in other words, too
        </label>
        <ul className="max-h-[56vh] divide-y divide-line overflow-y-auto rounded-md border border-line">
          {found.data?.gathered.map((each) => <Found key={each.select.id} each={each} put={() => lay(show, each)} />)}
          {found.data?.gathered.length === 0 && <li className="px-3 py-2 leading-snug text-soft">{text || colour ? "No select is like that." : "Nothing is marked as good yet. Select words under Cut, and give them a colour."}</li>}
        </ul>
      </section>
      <Story show={show} episode={episode} />
    </div>
  );
}

function Found({ each, put }: { each: Gathered; put: () => void }) {
  const { select, text, voice, before, after, episode, episode_id } = each;
  return (
    <li className="flex gap-2 px-2.5 py-2">
      <span data-colour={select.colour} className="select-swatch mt-1 shrink-0" aria-label={select.colour} />
      <div className="min-w-0 flex-1 space-y-0.5">
        <p className="font-serif leading-snug" title={`… ${before} ${text} ${after} …`}>
          {text || "nothing that is written down"}
        </p>
        <p className="text-xs leading-snug text-soft">
          {[voice, episode, clock(select.end - select.start, 1), "★".repeat(select.rating), select.note].filter(Boolean).join(" · ")}{" "}
          <Link href={hrefOf({ episode_id, recording_id: select.recording, at: select.start })} className="underline hover:text-ink" onClick={() => desk().set({ panel: null })}>
            show it there
          </Link>
        </p>
      </div>
      <Hear id={select.id} name={text.split(/\s+/).slice(0, 5).join(" ")} recording={select.recording} start={select.start} end={select.end} />
      <Button className="self-start !px-1.5" hint="Lay it on the table" aria-label={`Lay “${text}” on the table`} onClick={put}>
        <Plus size={14} />
      </Button>
    </li>
  );
}

function Story({ show, episode }: { show: string; episode: string }) {
  const cards = useCards(show);
  const [over, setOver] = useState<number | null>(null);
  const [name, setName] = useState("Story");
  const [target, setTarget] = useState(120);
  const total = lengthOf(cards);
  const off = total - target * RATE;
  const make = useEpisodeChange(episode, () =>
    got(client.POST("/api/episodes/{episode_id}/gathered", { params: { path: { episode_id: episode } }, body: { name: name.trim() || "Story", shape: "as recorded", stretches: cards.map(({ recording, start, end }) => ({ recording, start, end })), ...author() } })),
  );
  const made = ({ editions }: { editions: readonly string[] }) => {
    desk().set({ panel: null });
    if (editions[0]) openMade(editions[0], `Made the edition “${name}”`);
  };
  return (
    <section aria-label="On the table" className="flex flex-col">
      <p className="mb-2 flex items-center gap-1.5 text-soft">
        <span className="font-mono text-ink">{clock(total, 1)}</span> of
        <NumberField label="Length it is to have in seconds" unit="s" least={1} most={36_000} step={10} value={target} onChange={setTarget} className="w-14" />
        <span className="flex-1 text-right">{cards.length > 0 && (off > 0 ? `${clock(off)} too long` : `${clock(-off)} left`)}</span>
      </p>
      <ol aria-label="The order of the story" className="max-h-[48vh] min-h-24 flex-1 divide-y divide-line overflow-y-auto rounded-md border border-line">
        {cards.map((card, index) => (
          <Row key={card.id} {...{ show, card, index, over, setOver }} />
        ))}
        {cards.length === 0 && <li className="px-3 py-2 leading-snug text-soft">Lay selects here with their plus, then drag them into the order of your story.</li>}
      </ol>
      <div className="mt-2 flex gap-1.5">
        <TextField label="Name of the story" value={name} maxLength={200} onChange={setName} className="min-w-0 flex-1" />
        <Button why={!cards.length && "The table is empty"} onClick={() => clear(show)}>
          Clear
        </Button>
        <Button look="strong" why={(!cards.length && "The table is empty") || (make.busy && "It is being made")} onClick={() => make.run(undefined, made)}>
          Make an edition
        </Button>
      </div>
    </section>
  );
}

interface RowProps {
  show: string;
  card: Card;
  index: number;
  over: number | null;
  setOver: (index: number | null) => void;
}

function Row({ show, card, index, over, setOver }: RowProps) {
  const short = card.text.split(/\s+/).slice(0, 5).join(" ");
  const key = (event: KeyboardEvent) => {
    const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    move(show, index, index + way);
  };
  const down = (event: PointerEvent) => {
    event.preventDefault();
    let to = index;
    drag(event, {
      move: ({ clientX, clientY }) => {
        const row = document.elementFromPoint(clientX, clientY)?.closest<HTMLElement>("[data-card]");
        if (row) setOver((to = Number(row.dataset["card"])));
      },
      drop: (moved) => {
        setOver(null);
        if (moved) move(show, index, to);
      },
      cancel: () => setOver(null),
    });
  };
  return (
    <li data-card={index} className={clsx("flex gap-1.5 px-2 py-1.5", over === index && "bg-side")}>
      <button type="button" aria-label={`Move “${short}”`} title="Drag it, or press the arrow keys" className="cursor-grab touch-none self-start p-0.5 text-soft hover:text-ink" onPointerDown={down} onKeyDown={key}>
        <GripVertical size={14} />
      </button>
      <div className="min-w-0 flex-1 space-y-1">
        <p className="line-clamp-2 font-serif leading-snug" title={card.text}>
          {card.text}
        </p>
        <p className="flex items-center gap-1.5 text-xs text-soft">
          <span className="min-w-0 flex-1 truncate">{card.episode}</span>
          <NumberField label={`Begin “${short}” at second`} title="Where it begins in the recording" unit="–" least={0} most={card.end / RATE} step={0.1} digits={1} value={card.start / RATE} onChange={(seconds) => trim(show, card.id, { start: Math.round(seconds * RATE), end: card.end })} className="w-14" />
          <NumberField label={`End “${short}” at second`} title="Where it ends in the recording" unit="s" least={card.start / RATE} most={360_000} step={0.1} digits={1} value={card.end / RATE} onChange={(seconds) => trim(show, card.id, { start: card.start, end: Math.round(seconds * RATE) })} className="w-14" />
        </p>
      </div>
      <Hear id={`card ${card.id}`} name={`${short}, as it lies here`} recording={card.recording} start={card.start} end={card.end} />
      <Button className="self-start !px-1.5" look="quiet" hint="Part it in its middle; then move the ends" aria-label={`Part “${short}”`} onClick={() => split(show, card.id, Math.round((card.start + card.end) / 2))}>
        <Scissors size={13} />
      </Button>
      <Button className="self-start !px-1.5" look="quiet" hint="Take it off the table" aria-label={`Take “${short}” off the table`} onClick={() => takeAway(show, card.id)}>
        <X size={13} />
      </Button>
    </li>
  );
}
