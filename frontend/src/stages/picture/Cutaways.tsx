/** Pictures and films over the words: those that lie there, and where they come from. */
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import type { Episode, Head } from "../../api/client";
import { RATE } from "../../api/time";
import { usePlace } from "../../desk/place";
import { changedCutaway, thumbnailOf, type Cutaway } from "../../page/cutaways";
import type { Edit } from "../../page/edit";
import { selected, type Tokens } from "../../page/tokens";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Boxes } from "./Boxes";
import { Pictures } from "./Pictures";

interface CutawaysProps {
  episode: Episode;
  head: Head;
  tokens: Tokens;
  edit: Edit;
  reveal: (laid: number) => void;
}

export function Cutaways({ episode, head, tokens, edit, reveal }: CutawaysProps) {
  const words = selected(tokens.list, usePlace((state) => state.selection));
  const [browsing, setBrowsing] = useState(false);
  /** The cutaway that another picture is to take the place of. */
  const [replaced, setReplaced] = useState<Cutaway | null>(null);
  const { cutaways } = head;
  const said = words ? tokens.list.filter((each) => each.at >= words[0] && each.at < words[1]).map((each) => each.text).join(" ") : "";
  const lay = (recording: string) => {
    if (replaced) edit.operate(changedCutaway(replaced, { recording, place: 0 }), () => setReplaced(null));
    else if (words) edit.operate({ kind: "cutaway", id: null, recording, begin: words[0], end: words[1], place: 0, framing: "single", first: [0, 0, 1, 1], last: [0, 0, 1, 1], decibels: null, on: true });
  };
  return (
    <>
      <Heading aside={cutaways.length || undefined}>Cutaways</Heading>
      {cutaways.length > 0 && (
        <ul aria-label="Cutaways" className="mb-1.5 overflow-hidden rounded-md border border-line bg-paper">
          {cutaways.map((each) => (
            <Row
              key={each.id}
              cutaway={each}
              {...{ edit, reveal }}
              replace={() => {
                setReplaced(each);
                setBrowsing(true);
              }}
            />
          ))}
        </ul>
      )}
      <Button aria-expanded={browsing} onClick={() => setBrowsing(!browsing)}>
        <Plus size={14} /> Pictures
      </Button>
      {browsing && (
        <>
          <p aria-live="polite" className="mt-1.5 leading-snug text-soft">
            {replaced ? `Choose what takes the place of “${replaced.name}”.` : words ? "Choose what is seen over the words that are selected." : "Select the words that a picture is to be seen over."}
            {replaced && (
              <Button look="quiet" className="!px-1 !py-0" onClick={() => setReplaced(null)}>
                Leave it
              </Button>
            )}
          </p>
          <Pictures episode={episode} said={said} lay={words || replaced ? lay : null} />
        </>
      )}
    </>
  );
}

const FRAMINGS = [
  ["single", "by itself"],
  ["side by side", "beside who speaks"],
  ["large with small", "who speaks small in a corner"],
  ["stacked", "above who speaks"],
] as const;

const WHOLE = [0, 0, 1, 1];
const CLOSE = [0.1, 0.1, 0.8, 0.8];
const [LEFT, RIGHT] = [
  [0, 0.1, 0.8, 0.8],
  [0.2, 0.1, 0.8, 0.8],
];

/** Movements over a picture: which part is seen at first and at last. */
const MOVES: readonly (readonly [string, string, readonly number[], readonly number[]])[] = [
  ["still", "stands still", WHOLE, WHOLE],
  ["closer", "comes slowly closer", WHOLE, CLOSE],
  ["back", "goes slowly back", CLOSE, WHOLE],
  ["right", "pans to the right", LEFT, RIGHT],
  ["left", "pans to the left", RIGHT, LEFT],
];

const OWN = ["own", "as drawn below"] as const;

const SOUNDS = [
  ["off", "off"],
  ["low", "low, under the words"],
  ["on", "as loud as it is"],
] as const;

const LEVELS = { off: null, low: -18, on: 0 } as const;

const alike = (a: readonly number[], b: readonly number[]) => a.every((each, index) => Math.abs(each - (b[index] ?? 0)) < 0.001);

function Row({ cutaway, edit, reveal, replace }: { cutaway: Cutaway; replace: () => void } & Pick<CutawaysProps, "edit" | "reveal">) {
  const [open, setOpen] = useState(false);
  const [drawing, setDrawing] = useState(false);
  const { begin, name, recording, kind, first, last, decibels, on } = cutaway;
  const here = typeof begin === "number";
  const set = (next: Parameters<typeof changedCutaway>[1]) => here && edit.operate(changedCutaway(cutaway, next));
  const show = () => {
    if (here) {
      player.seek(begin);
      reveal(begin);
    }
    setOpen(!open);
  };
  const move = MOVES.find(([, , a, b]) => alike(a, first) && alike(b, last))?.[0] ?? "own";
  const sound = decibels === null ? "off" : decibels <= -12 ? "low" : "on";
  return (
    <li className="border-b border-line px-2 py-1 last:border-0">
      <div className="flex items-center gap-1.5">
        <img src={thumbnailOf(recording)} alt="" className="h-6 w-10 shrink-0 rounded-sm object-cover" />
        <button type="button" aria-expanded={open} className="min-w-0 flex-1 truncate text-left hover:text-blue" title={here ? "Show it there" : "Its words are not in this edition any more"} onClick={show}>
          {name} {!here && <span className="text-ochre">its words are gone</span>}
        </button>
        <Tick label={`“${name}” is seen`} checked={on} onChange={(next) => set({ on: next })} />
        <Button look="quiet" className="!px-1" aria-label={`Take “${name}” off`} hint="Who speaks is seen again" onClick={() => edit.operate({ kind: "cutaway off", id: cutaway.id })}>
          <Trash2 size={13} />
        </Button>
      </div>
      {open && here && (
        <div className="space-y-1 py-1.5">
          <Line label="seen">
            <Pick label="How it is seen" value={cutaway.framing as (typeof FRAMINGS)[number][0]} options={FRAMINGS} onChange={(framing) => set({ framing })} />
          </Line>
          <Line label="the picture">
            <Pick
              label="How the picture moves"
              value={move}
              options={[...MOVES.map(([key, told]) => [key, told] as const), OWN]}
              onChange={(key) => {
                const known = MOVES.find(([each]) => each === key);
                if (known) set({ first: [...known[2]], last: [...known[3]] });
                setDrawing(!known);
              }}
            />
          </Line>
          {(drawing || move === "own") && <Boxes picture={thumbnailOf(recording)} first={first} last={last} keep={(next) => set(next)} />}
          {kind === "film" && (
            <>
              <Line label="begins in it at">
                <NumberField label="Where the film begins, seconds" unit="s" least={0} most={36_000} step={0.5} digits={1} value={cutaway.place / RATE} className="w-14" onChange={(seconds) => set({ place: Math.round(seconds * RATE) })} />
              </Line>
              <Line label="its sound">
                <Pick label="Sound of the cutaway" value={sound} options={SOUNDS} onChange={(next) => set({ decibels: LEVELS[next] })} />
              </Line>
            </>
          )}
          <Button look="quiet" onClick={replace}>
            Replace …
          </Button>
        </div>
      )}
    </li>
  );
}
