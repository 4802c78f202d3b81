/** Framings of the show: made on the monitor, named, and kept in its house style. */
import { Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Plan } from "../../api/client";
import type { SchemaOwnFramingField as OwnFraming } from "../../api/schema";
import { desk } from "../../desk/desk";
import { useStyle, useStyleChange } from "../../page/style";
import { Button } from "../../ui/controls";
import { Colour, Line, Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { useDrawn } from "./framing";

/** What else can lie in a framing, and where it does at first. */
const FIXTURES = [
  ["card", "the episode’s card", [0.04, 0.14, 0.44, 0.72]],
  ["logo", "the logo", [0.84, 0.04, 0.12, 0.14]],
  ["voice", "the drawing of the voice", [0.04, 0.86, 0.44, 0.12]],
] as const;

/** A framing with one of them, too; the place of somebody it would hide is given up, if others are left. */
function withFixture(framing: OwnFraming, kind: (typeof FIXTURES)[number][0], box: readonly number[]): Partial<OwnFraming> {
  const free = framing.slots.filter((slot) => slot.some((side, index) => Math.abs(side - (box[index] ?? 0)) > 0.02));
  return { fixtures: [...framing.fixtures, { kind, box: [...box] }], slots: free.length ? free : framing.slots };
}

const groundKind = (ground: string) => (ground === "blurred" ? "blurred" : ground.startsWith("picture:") ? "picture" : "colour");

interface OwnFramingsProps {
  show: string;
  plan: Plan | undefined;
}

const GROUNDS = [
  ["colour", "a colour"],
  ["blurred", "the picture, out of focus"],
  ["picture", "a picture of your own"],
] as const;

export function OwnFramings({ show, plan }: OwnFramingsProps) {
  const style = useStyle(show);
  const { keep, picture } = useStyleChange(show);
  const file = useRef<HTMLInputElement>(null);
  const [open, setOpen] = useState(false);
  const drawn = useDrawn((state) => state.framing);
  useEffect(() => () => useDrawn.setState({ framing: null }), []);
  if (!style) return null;
  const ratio = plan?.height ? plan.width / plan.height : 16 / 9;
  const fresh: OwnFraming = { name: "", slots: [[0.04, 0.14, 0.44, 0.72], [0.52, 0.14, 0.44, 0.72]], ratio, corner: 6, border: 0, border_colour: "#fcfbf7", ground: "#20262b", names: true, line: "", fixtures: [] };
  const set = (next: Partial<OwnFraming>) => drawn && useDrawn.setState({ framing: { ...drawn, ...next } });
  /** Of several shapes with one name only that of this shape is replaced. */
  const others = (framing: OwnFraming) => style.framings.filter((each) => each.name !== framing.name || Math.abs(Math.log(each.ratio / framing.ratio)) > 0.1);
  const save = () => {
    if (!drawn) return;
    const name = drawn.name.trim();
    if (!name) return desk().say("Give the framing a name first.");
    keep({ ...style, framings: [...others({ ...drawn, name }), { ...drawn, name }] });
    useDrawn.setState({ framing: null });
    desk().say(`Kept the framing “${name}” for the show`);
  };
  return (
    <>
      <Button look="quiet" aria-expanded={open} className="mt-1" onClick={() => setOpen(!open)}>
        Framings of the show …
      </Button>
      {open && (
        <section aria-label="Framings of the show" className="mt-1 space-y-1.5 rounded-md border border-line bg-paper p-2">
          {style.framings.map((each) => (
            <div key={`${each.name} ${each.ratio}`} className="flex items-center gap-1.5">
              <button type="button" className="min-w-0 flex-1 truncate text-left hover:text-blue" title="Change it on the monitor" onClick={() => useDrawn.setState({ framing: each })}>
                {each.name} <span className="text-soft">{each.slots.length}</span>
              </button>
              <Button look="quiet" className="!px-1" aria-label={`Delete the framing ${each.name}`} hint="Shots that have it show one person instead" onClick={() => keep({ ...style, framings: style.framings.filter((other) => other !== each) })}>
                <Trash2 size={13} />
              </Button>
            </div>
          ))}
          {!drawn && <Button onClick={() => useDrawn.setState({ framing: fresh })}>New framing</Button>}
          {drawn && (
            <div className="space-y-1">
              <p className="leading-snug text-soft">Drag the places on the monitor, and their corners to resize them.</p>
              <TextField label="Name of the framing" placeholder="Name" value={drawn.name} maxLength={80} onChange={(name) => set({ name })} className="w-full" />
              <Line label="places">
                <NumberField
                  label="Places of the framing"
                  unit=""
                  least={1}
                  most={9}
                  value={drawn.slots.length}
                  className="w-12"
                  onChange={(count) => set({ slots: Array.from({ length: count }, (_, index) => drawn.slots[index] ?? [0.68, 0.66, 0.28, 0.28]) })}
                />
              </Line>
              <Line label="round corners">
                <NumberField label="Round corners, per cent" unit="%" least={0} most={50} value={drawn.corner} className="w-12" onChange={(corner) => set({ corner })} />
              </Line>
              <Line label="line around them">
                <NumberField label="Line around them, per cent" unit="%" least={0} most={20} value={drawn.border} className="w-12" onChange={(border) => set({ border })} />
              </Line>
              {drawn.border > 0 && <Colour label="its colour" value={drawn.border_colour} onChange={(border_colour) => set({ border_colour })} />}
              <Line label="behind them">
                <Pick label="What lies behind them" value={groundKind(drawn.ground)} options={GROUNDS} onChange={(next) => (next === "picture" ? file.current?.click() : set({ ground: next === "blurred" ? "blurred" : "#20262b" }))} />
              </Line>
              <input ref={file} type="file" hidden aria-label="File of the picture behind them" accept="image/*" onChange={(event) => event.target.files?.[0] && picture(event.target.files[0], (digest) => set({ ground: `picture:${digest}` }))} />
              {groundKind(drawn.ground) === "colour" && <Colour label="colour behind them" value={drawn.ground} onChange={(ground) => set({ ground })} />}
              <label className="flex items-center justify-between gap-2 text-soft">
                names below them <Tick checked={drawn.names} onChange={(names) => set({ names })} />
              </label>
              {FIXTURES.map(([kind, name, box]) => (
                <label key={kind} className="flex items-center justify-between gap-2 text-soft">
                  {name} <Tick checked={drawn.fixtures.some((each) => each.kind === kind)} onChange={(next) => set(next ? withFixture(drawn, kind, box) : { fixtures: drawn.fixtures.filter((each) => each.kind !== kind) })} />
                </label>
              ))}
              <TextField label="A line below them all" placeholder="A line below them all" value={drawn.line} maxLength={120} onChange={(line) => set({ line })} className="w-full" />
              <div className="flex gap-1.5">
                <Button look="strong" onClick={save}>
                  Keep it
                </Button>
                <Button look="quiet" onClick={() => useDrawn.setState({ framing: null })}>
                  Leave it
                </Button>
              </div>
            </div>
          )}
        </section>
      )}
    </>
  );
}
