/** The chain of one voice: processors in an order one can change, each with its amount and settings, each compared by itself. */
import { useQueryClient } from "@tanstack/react-query";
import clsx from "clsx";
import { ChevronDown, ChevronRight, Ear, GripVertical, Trash2 } from "lucide-react";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import type { SchemaProcessorKindOut as Kind } from "../../api/schema";
import { change } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import { drag } from "../../page/drag";
import type { Edit } from "../../page/edit";
import { Button } from "../../ui/controls";
import { Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { useCompared, type Part, type Subject } from "./compare";
import { EqualiserCurve } from "./EqualiserCurve";
import { useProcessors, useWay, wayKey, type Processor } from "./queries";

interface ChainProps {
  episode: Episode;
  head: Head;
  edit: Edit;
  /** What it is the chain of: a track, or a voice within it. */
  strip: string;
  track: string;
  name: string;
  chain: readonly Processor[];
  /** What is played for comparison. */
  subject: Subject;
  /** The words it is for, in laid time; null for the whole track. */
  range: readonly [number, number] | null;
  /** The other tracks, which an equaliser can be matched to. */
  others: readonly (readonly [string, string])[];
}

export function Chain({ episode, head, edit, strip, track, name, chain, subject, range, others }: ChainProps) {
  const known = useProcessors().data;
  const way = useWay(episode.show_id).data;
  const [open, setOpen] = useState<number | null>(null);
  const [over, setOver] = useState<number | null>(null);
  const kinds = known?.kinds ?? [];
  const send = (next: readonly Processor[], told = "") =>
    edit.operate(range ? { kind: "processors here", track, begin: range[0], end: range[1], chain: [...next], told } : { kind: "processors", track: strip, chain: [...next], told });
  const put = (index: number, next: Partial<Processor>, told: string) => send(chain.map((each, number) => (number === index ? { ...each, ...next } : each)), told);
  const move = (from: number, to: number) => {
    if (to < 0 || to >= chain.length || to === from) return;
    const next = [...chain];
    next.splice(to, 0, ...next.splice(from, 1));
    setOpen(null);
    send(next, `put “${chain[from]?.kind}” in place ${to + 1} of a chain`);
  };
  const named = [...(known?.chains ?? []), ...(way?.chains ?? [])];
  const called = head.tracks.find((each) => each.track === strip)?.called ?? "leave it alone";
  const kept = way?.chains.find((each) => JSON.stringify(each.chain) === JSON.stringify(chain))?.name;
  return (
    <div className="mt-2">
      <div className="mb-1.5 flex items-center gap-1.5">
        <Pick
          label={`Chain of ${name}`}
          value={kept ?? called}
          options={[...(kept || called !== "own" ? [] : [["own", "a chain of its own"] as const]), ...named.map((each) => [each.name, each.name] as const)]}
          onChange={(wanted) => send(named.find((each) => each.name === wanted)?.chain ?? [])}
          className="min-w-0 flex-1"
        />
        <Compare subject={subject} label="the whole chain" disabled={!chain.length} />
      </div>
      <ol aria-label={`Processors of ${name}`} className="overflow-hidden rounded-md border border-line bg-paper">
        {chain.map((each, index) => (
          <Row
            key={`${index} ${each.kind}`}
            kind={kinds.find((kind) => kind.kind === each.kind)}
            {...{ index, over, setOver, move }}
            processor={each}
            open={open === index}
            toggle={() => setOpen(open === index ? null : index)}
            subject={{ ...subject, without: index }}
            put={(next, told) => put(index, next, told)}
            remove={() => send(chain.filter((_, number) => number !== index), `took “${each.kind}” out of a chain`)}
          >
            {each.kind === "equaliser" && <EqualiserCurve {...{ head, track: strip, others }} state={subject.state} put={(next) => put(index, { settings: next.settings ?? {} }, "matched a voice with an equaliser")} />}
          </Row>
        ))}
        {chain.length === 0 && <li className="px-2 py-1.5 leading-snug text-soft">Nothing yet: it sounds as recorded.</li>}
      </ol>
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <Pick label={`Add a processor to the chain of ${name}`} value="" options={[["", "add a processor …"], ...kinds.map((kind) => [kind.kind, kind.kind] as const)]} onChange={(kind) => kind && send([...chain, { kind, on: true, amount: 100, settings: {} }], `added “${kind}” to a chain`)} className="min-w-0 flex-1" />
        <Suggest {...{ head, track, name }} take={(next) => send(next, "took the chain that was proposed")} />
      </div>
      {chain.length > 0 && <Keep show={episode.show_id} chain={chain} />}
    </div>
  );
}

interface RowProps {
  index: number;
  kind: Kind | undefined;
  processor: Processor;
  open: boolean;
  toggle: () => void;
  subject: Subject;
  put: (next: Partial<Processor>, told: string) => void;
  remove: () => void;
  move: (from: number, to: number) => void;
  /** Where one that is dragged would be put. */
  over: number | null;
  setOver: (index: number | null) => void;
  children: React.ReactNode;
}

function Row({ index, kind, processor, open, toggle, subject, put, remove, move, over, setOver, children }: RowProps) {
  const on = processor.on ?? true;
  const amount = processor.amount ?? 100;
  const key = (event: KeyboardEvent) => {
    const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    move(index, index + way);
  };
  const down = (event: PointerEvent) => {
    event.preventDefault();
    let to = index;
    drag(event, {
      move: ({ clientX, clientY }) => {
        const row = document.elementFromPoint(clientX, clientY)?.closest<HTMLElement>("[data-processor]");
        if (row) setOver((to = Number(row.dataset["processor"])));
      },
      drop: (moved) => {
        setOver(null);
        if (moved) move(index, to);
      },
      cancel: () => setOver(null),
    });
  };
  return (
    <li data-processor={index} className={clsx("border-b border-line last:border-0", over === index && "bg-side")}>
      <div className="flex items-center gap-1 px-1 py-1">
        <button type="button" aria-label={`Move ${processor.kind}`} title="Drag it, or press the arrow keys: the order matters" className="cursor-grab touch-none p-0.5 text-soft hover:text-ink" onPointerDown={down} onKeyDown={key}>
          <GripVertical size={14} />
        </button>
        <Tick label={`${processor.kind} on`} checked={on} onChange={(next) => put({ on: next }, `switched “${processor.kind}” ${next ? "on" : "off"}`)} />
        <button type="button" aria-expanded={open} title={kind?.about} className={clsx("flex min-w-0 flex-1 items-center gap-0.5 text-left hover:text-blue", !on && "text-soft line-through")} onClick={toggle}>
          {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />} {processor.kind}
        </button>
        <NumberField label={`Amount of ${processor.kind} in per cent`} unit="%" value={amount} least={0} most={100} step={5} className="w-10" onChange={(next) => put({ amount: next }, `set “${processor.kind}” to ${next} %`)} />
        <Compare subject={subject} label={processor.kind} left={processor.kind === "noise"} />
      </div>
      {open && (
        <div className="space-y-1 px-2 pt-0.5 pb-2">
          {kind?.about && <p className="leading-snug text-soft">{kind.about}</p>}
          {children}
          {kind?.settings.map((setting) => (
            <div key={setting.name} className="flex items-center justify-between gap-2">
              <span className="text-soft">{setting.label}</span>
              <NumberField
                label={`${setting.label} of ${processor.kind}${setting.unit ? ` in ${setting.unit}` : ""}`}
                unit={setting.unit}
                value={processor.settings?.[setting.name] ?? setting.value}
                least={setting.least}
                most={setting.most}
                step={setting.step}
                digits={setting.step < 1 ? 1 : 0}
                className="w-14"
                onChange={(value) => put({ settings: { ...processor.settings, [setting.name]: value } }, `set ${setting.label} of “${processor.kind}” to ${value} ${setting.unit}`.trim())}
              />
            </div>
          ))}
          <Button look="quiet" className="!px-1.5 !py-0.5 text-xs" onClick={remove}>
            <Trash2 size={12} /> Take out
          </Button>
        </div>
      )}
    </li>
  );
}

const PARTS: readonly (readonly [Part, string])[] = [
  ["with", "with"],
  ["without", "without"],
  ["left", "what it takes out"],
];

/** Plays the words at the playhead in a loop, with and without something, equally loud. */
function Compare({ subject, label, left, disabled }: { subject: Subject; label: string; left?: boolean; disabled?: boolean }) {
  const now = useCompared((state) => (state.subject?.track === subject.track && state.subject.without === subject.without ? state.part : null));
  const busy = useCompared((state) => state.busy);
  const { hear, stop } = useCompared.getState();
  if (!now) {
    return (
      <Button look="quiet" className="!px-1" aria-label={`Compare with and without ${label}`} hint="Plays the words here in a loop, with and without it, equally loud (V swaps)" why={disabled && "There is nothing in the chain yet"} onClick={() => void hear(subject, "with")}>
        <Ear size={14} />
      </Button>
    );
  }
  return (
    <span role="group" aria-label={`Comparing ${label}`} className="inline-flex items-center gap-0.5 text-xs">
      {PARTS.filter(([part]) => part !== "left" || left).map(([part, text]) => (
        <button key={part} type="button" aria-pressed={now === part} aria-busy={busy} className={clsx("rounded px-1 py-0.5", now === part ? "bg-blue text-paper" : "text-soft hover:text-ink")} onClick={() => void hear(subject, part)}>
          {part === "left" ? "rest" : text}
          {part === "left" && <span className="sr-only">: what it takes out</span>}
        </button>
      ))}
      <button type="button" aria-label="Stop comparing" className="rounded px-1 text-soft hover:text-ink" onClick={stop}>
        ×
      </button>
    </span>
  );
}

/** Measures the recording, and says what was found and what is proposed before anything is changed. */
function Suggest({ head, track, name, take }: { head: Head; track: string; name: string; take: (chain: readonly Processor[]) => void }) {
  const [found, setFound] = useState<{ track: string; told: readonly string[]; chain: readonly Processor[]; why: readonly string[] } | null>(null);
  const [busy, setBusy] = useState(false);
  const ask = () => {
    setBusy(true);
    got(client.GET("/api/editions/{edition_id}/suggestion", { params: { path: { edition_id: head.id }, query: { track } } }))
      .then(({ found, chain, why }) => setFound({ track, told: found, chain, why }))
      .catch(failed)
      .finally(() => setBusy(false));
  };
  const shown = found?.track === track ? found : null;
  return (
    <>
      <Button why={busy && "It is being measured"} hint="Measures the recording: noise, hum, echo, level" onClick={ask}>
        {busy ? "Measuring …" : "Suggest"}
      </Button>
      {shown && (
        <div role="note" aria-label={`What was found of ${name}`} className="w-full rounded-md border border-line bg-paper px-2 py-1.5 leading-snug">
          <p>
            Found: <b className="font-semibold">{shown.told.join(", ")}</b>
          </p>
          <ul className="my-1">
            {shown.chain.map((each, index) => (
              <li key={`${index} ${each.kind}`}>
                <b className="font-semibold">{each.kind}</b>
                {(each.amount ?? 100) < 100 && ` ${each.amount} %`} <span className="text-soft">{shown.why[index]}</span>
              </li>
            ))}
          </ul>
          <div className="flex gap-1.5">
            <Button
              look="strong"
              why={!shown.chain.length && "There is nothing to propose"}
              onClick={() => {
                take(shown.chain);
                setFound(null);
              }}
            >
              Take it
            </Button>
            <Button onClick={() => setFound(null)}>Leave it</Button>
          </div>
        </div>
      )}
    </>
  );
}

/** Keeps a chain under a name, for the show. */
function Keep({ show, chain }: { show: string; chain: readonly Processor[] }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const keep = async () => {
    const text = name.trim();
    const kept = await change([wayKey(show)], () => got(client.POST("/api/shows/{show_id}/chains", { params: { path: { show_id: show } }, body: { name: text, chain: [...chain] } })));
    if (!kept) return;
    void queries.invalidateQueries({ queryKey: wayKey(show) });
    setName("");
    desk().say(`The show keeps this chain as “${text}”`);
  };
  return (
    <form
      className="mt-1.5 flex items-center gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (name.trim()) void keep();
      }}
    >
      <TextField label="Name for this chain" value={name} placeholder="keep this chain as …" onChange={setName} className="flex-1" />
      <Button type="submit" why={!name.trim() && "Give it a name first"}>
        Keep
      </Button>
    </form>
  );
}
