/** How captions are drawn on the picture: a look is chosen, changed, saved, and given to all, to a voice, or to selected words. */
import clsx from "clsx";
import { Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import type { Head, Voice } from "../../api/client";
import { desk } from "../../desk/desk";
import { usePlace } from "../../desk/place";
import { useMay } from "../../desk/rights";
import type { Edit } from "../../page/edit";
import { selected, type Tokens } from "../../page/tokens";
import { Button, Heading } from "../../ui/controls";
import { Colour, Line, Pick, TextField } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { sampleOf, useHouse, useShowCaptions, type Look } from "../../page/house";

interface LooksProps {
  head: Head;
  show: string;
  voices: ReadonlyMap<string, Voice>;
  tokens: Tokens;
  edit: Edit;
}

const ALL = "";
const SELECTED = "selected";

/** The same apart from its name. */
const alike = (one: Look, other: Look) => JSON.stringify({ ...one, name: "" }) === JSON.stringify({ ...other, name: "" });

export function Looks({ head, show, voices, tokens, edit }: LooksProps) {
  const [wanted, setWanted] = useState(ALL);
  const picked = selected(tokens.list, usePlace((state) => state.selection));
  const known = useShowCaptions(show).data;
  const house = useHouse(show);
  const edits = useMay("edit");
  const whose = wanted === SELECTED && !picked ? ALL : wanted;
  const given = head.looks.voices.find((each) => each.voice === whose)?.look;
  const [last, setLast] = useState<Look | null>(null);
  const look = (whose === SELECTED ? last : given) ?? head.looks.all;
  const [begin, end] = whose === SELECTED && picked ? picked.map(Math.round) : [null, null];
  const give = (next: Look | null) => {
    setLast(next);
    edit.operate({ kind: "caption look", look: next, voice: whose === SELECTED ? ALL : whose, begin: begin ?? null, end: end ?? null });
  };
  const looks = known ? [...known.shipped.map((each) => [each, false] as const), ...known.looks.map((each) => [each, true] as const)] : [];
  const own = whose === ALL ? head.looks.own : whose === SELECTED ? head.looks.single > 0 : given !== undefined;
  return (
    <section aria-label="Looks of captions" className="mt-3">
      <Line label="for">
        <Pick
          label="Which captions"
          value={whose}
          options={[[ALL, "all captions"], ...(picked ? ([[SELECTED, "the selected words"]] as const) : []), ...[...voices.values()].map((voice) => [voice.id, voice.shown] as const)]}
          onChange={setWanted}
        />
      </Line>
      <ul aria-label="Looks" className="mt-2 grid grid-cols-3 gap-1.5">
        {looks.map(([each, mine]) => (
          <li key={each.name} className="relative">
            <button
              type="button"
              aria-label={`Look ${each.name}`}
              aria-pressed={each.name === look.name && alike(each, look)}
              className={clsx("block w-full overflow-hidden rounded-md border text-left", each.name === look.name ? "border-blue ring-1 ring-blue" : "border-line hover:border-soft")}
              onClick={() => give(each)}
            >
              <img src={sampleOf(each)} alt="" className="block aspect-video w-full bg-side" />
              <span className="block truncate px-1.5 py-0.5 text-xs">{each.name}</span>
            </button>
            {mine && edits && (
              <button type="button" aria-label={`Delete the look ${each.name}`} title="Captions that have it stay as they are" className="absolute top-1 right-1 rounded bg-paper/90 p-0.5 text-soft hover:text-red" onClick={() => house.remove(each.name, () => desk().say(`Deleted the look “${each.name}”`, { also: { text: "Undo", run: () => house.save(each) } }))}>
                <Trash2 size={12} />
              </button>
            )}
          </li>
        ))}
      </ul>
      <Fields look={look} fonts={known?.fonts ?? []} set={(next) => give({ ...look, ...next })} addFont={edits && ((file) => house.font(file, (after) => give({ ...look, font: after.fonts.at(-1)?.key ?? look.font })))} />
      {edits && <Saving look={look} save={(name) => house.save({ ...look, name }, () => give({ ...look, name }))} />}
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {edits && (
          <Button hint="Editions without a look of their own have this one" onClick={() => house.keep({ look }, () => desk().say(`“${look.name}” is the show’s look now`))}>
            Keep for the show
          </Button>
        )}
        <Button why={!own && "Nothing of its own to take off"} hint={whose === ALL ? "As the show has it" : "As the others look"} onClick={() => give(null)}>
          Take off
        </Button>
      </div>
    </section>
  );
}

/** A name to save the look by. */
function Saving({ look, save }: { look: Look; save: (name: string) => void }) {
  const name = useRef<HTMLInputElement>(null);
  return (
    <form
      className="mt-3 flex gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        const wanted = name.current?.value.trim();
        if (wanted) save(wanted);
      }}
    >
      <TextField ref={name} label="Name of the look" placeholder={`Name, say “${look.name} 2”`} maxLength={60} className="flex-1" />
      <Button type="submit">Save the look</Button>
    </form>
  );
}

interface FieldsProps {
  look: Look;
  fonts: readonly { key: string; name: string }[];
  set: (next: Partial<Look>) => void;
  /** Only for who may change the show. */
  addFont: false | ((file: File) => void);
}

const PLACES = (["top", "middle", "bottom"] as const).flatMap((down) => (["left", "centre", "right"] as const).map((across) => [across, down] as const));

/** Everything a look is made of. */
function Fields({ look, fonts, set, addFont }: FieldsProps) {
  const file = useRef<HTMLInputElement>(null);
  const number = (name: "size" | "weight" | "outline" | "shadow" | "rounding" | "x" | "y" | "lines" | "characters", label: string, least: number, most: number, step: number, unit = "%") => (
    <Line label={label}>
      <NumberField label={label} unit={unit} {...{ least, most, step }} digits={step < 1 ? 1 : 0} value={look[name]} className="w-14" onChange={(value) => set({ [name]: value })} />
    </Line>
  );
  return (
    <div className="mt-3 space-y-1">
      <Heading>Letters</Heading>
      <Line label="font">
        <span className="flex gap-1">
          <Pick label="Font" className="max-w-36" value={look.font} options={fonts.map((each) => [each.key, each.name] as const)} onChange={(font) => set({ font })} />
          {addFont && (
            <>
              <Button hint="A TrueType, OpenType or WOFF2 file of the show’s own" onClick={() => file.current?.click()}>
                Add
              </Button>
              <input ref={file} hidden type="file" aria-label="Font file" accept=".ttf,.otf,.woff2" onChange={(event) => event.target.files?.[0] && addFont(event.target.files[0])} />
            </>
          )}
        </span>
      </Line>
      {number("size", "size", 1, 25, 0.2)}
      {number("weight", "weight", 100, 900, 100, "")}
      <Line label="written">
        <Pick label="Capitals" value={look.case} options={[["as written", "as written"], ["capitals", "IN CAPITALS"]] as const} onChange={(next) => set({ case: next })} />
      </Line>
      <Colour label="colour" value={look.colour} onChange={(colour) => set({ colour })} />
      {number("outline", "outline", 0, 30, 1)}
      {look.outline > 0 && <Colour label="its colour" value={look.outline_colour} onChange={(outline_colour) => set({ outline_colour })} />}
      {number("shadow", "shadow", 0, 40, 1)}
      <Heading>Box and place</Heading>
      <Line label="box">
        <Pick label="Box" value={look.box} options={[["none", "none"], ["lines", "one for each line"], ["all", "one for all"]] as const} onChange={(box) => set({ box })} />
      </Line>
      {look.box !== "none" && (
        <>
          <Colour label="its colour" opaque value={look.box_colour} onChange={(box_colour) => set({ box_colour })} />
          {number("rounding", "round corners", 0, 100, 5)}
        </>
      )}
      <div className="flex items-start justify-between gap-2">
        <span className="text-soft">place</span>
        <div role="group" aria-label="Place on the picture" className="grid grid-cols-3 gap-0.5">
          {PLACES.map(([across, down]) => (
            <button
              key={`${down} ${across}`}
              type="button"
              aria-label={`${down} ${across}`}
              aria-pressed={look.across === across && look.down === down}
              className={clsx("h-4 w-7 rounded-sm border", look.across === across && look.down === down ? "border-blue bg-blue" : "border-line bg-paper hover:border-soft")}
              onClick={() => set({ across, down })}
            />
          ))}
        </div>
      </div>
      {number("x", "moved to the right", -100, 100, 1)}
      {number("y", "moved down", -100, 100, 1)}
      {number("lines", "lines at most", 0, 3, 1, "")}
      {number("characters", "characters on a line", 0, 100, 1, "")}
      <p className="text-xs leading-snug text-soft">0: as many as the rules have. Captions stay within the safe area.</p>
      <Heading>Movement</Heading>
      <Line label="words">
        <Pick
          label="Movement"
          value={look.move}
          options={
            [
              ["still", "stand still"],
              ["appear", "appear together"],
              ["change colour", "change colour when said"],
              ["mark", "are marked while said"],
              ["word by word", "appear as they are said"],
              ["enlarge", "grow while said"],
            ] as const
          }
          onChange={(move) => set({ move })}
        />
      </Line>
      {look.move !== "still" && (
        <>
          <Line label="it comes">
            <Pick label="Easing" value={look.easing} options={[["none", "at once"], ["even", "evenly"], ["gentle", "gently"]] as const} onChange={(easing) => set({ easing })} />
          </Line>
          {!["appear", "word by word"].includes(look.move) && <Colour label="colour of what is set apart" value={look.accent} onChange={(accent) => set({ accent })} />}
        </>
      )}
    </div>
  );
}
