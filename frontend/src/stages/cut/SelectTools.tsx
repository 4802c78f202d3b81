import { useState } from "react";
import type { Episode, Head, PageWords } from "../../api/client";
import { desk, useDesk } from "../../desk/desk";
import { placed } from "../../page/standing";
import { indexAt, type Tokens } from "../../page/tokens";
import { annotate, COLOURS, markAsGood, nameColour, takeOff } from "../../page/Selects";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, TextField, Tick } from "../../ui/fields";

interface SelectProps {
  episode: Episode;
  head: Head;
  page: PageWords;
  tokens: Tokens;
  picked: readonly [number, number] | null;
}

/** Marks what is selected on the page as good, in one of six colours, or takes such a mark off. */
export function SelectTools({ episode, head, page, tokens, picked }: SelectProps) {
  const passage = picked ? page.passages[tokens.passage[indexAt(tokens.list, picked[0])] ?? 0] : undefined;
  const here =
    passage && picked
      ? episode.selects.findLast((each) => placed([passage], each.id, each.recording, each.start, each.end).some(({ begin, end }) => begin < picked[1] && end > picked[0]))
      : undefined;
  const meant = (colour: (typeof COLOURS)[number]) => (episode.colours[colour] ? `: ${episode.colours[colour]}` : "");
  return (
    <section aria-label="Selects">
      <Heading aside={episode.selects.length ? `${episode.selects.length}` : undefined}>Good stretches</Heading>
      <div className="flex items-center gap-1.5">
        {COLOURS.map((colour) => (
          <button
            key={colour}
            type="button"
            aria-label={`Mark as good, in ${colour}`}
            title={picked ? `Mark what is selected as good, in ${colour}${meant(colour)}` : `Select words first${meant(colour)}`}
            aria-disabled={!picked}
            data-colour={colour}
            className="select-swatch"
            onClick={() => picked && void markAsGood(head, [{ begin: picked[0], end: picked[1] }], colour)}
          />
        ))}
        <Button className="ml-auto !px-2 !py-0.5 text-xs" why={!here && "Nothing marked as good is selected"} onClick={() => here && void takeOff(head, here)}>
          Remove
        </Button>
      </div>
      {episode.selects.length > 0 && <Shown colours={episode.colours} />}
      {here && <About key={here.id} {...{ head, here }} />}
      <details className="mt-1.5">
        <summary className="cursor-pointer text-soft hover:text-ink">What the colours stand for</summary>
        <div className="mt-1 space-y-1">
          {COLOURS.map((colour) => (
            <Line key={colour} label={colour}>
              <Written label={`What ${colour} stands for`} value={episode.colours[colour] ?? ""} most={40} save={(name) => void nameColour(episode.show_id, colour, name)} />
            </Line>
          ))}
        </div>
      </details>
    </section>
  );
}

/** Which selects are shown on the page and the strip, and whether only they are played. */
function Shown({ colours }: { colours: Episode["colours"] }) {
  const [colour, only] = [useDesk((state) => state.colour), useDesk((state) => state.onlySelects)];
  const named = (each: (typeof COLOURS)[number]) => colours[each] || each;
  return (
    <div className="mt-1.5 flex items-center gap-2">
      <Pick label="Selects that are shown" value={colour} options={[["", "all colours"], ...COLOURS.map((each) => [each, named(each)] as const)]} onChange={(wanted) => desk().set({ colour: wanted })} />
      <label className="flex items-center gap-1.5 text-soft" title="J, K and L go through them alone (Shift+O)">
        <Tick checked={only} onChange={(onlySelects) => desk().set({ onlySelects })} /> play only these
      </label>
    </div>
  );
}

const RATINGS = [0, 1, 2, 3].map((each) => [String(each), each ? "★".repeat(each) : "not rated"] as const);

/** The note on a select, and how good it is. */
function About({ head, here }: { head: Head; here: Episode["selects"][number] }) {
  return (
    <div className="mt-1.5 flex gap-1.5">
      <Written label="Note on the select" value={here.note} most={1000} save={(note) => void annotate(head, here, { note })} />
      <Pick label="Rating of the select" value={String(here.rating)} options={RATINGS} onChange={(rating) => void annotate(head, here, { rating: Number(rating) })} />
    </div>
  );
}

/** A line that is stored once Enter is pressed or it is left. */
function Written({ label, value, most, save }: { label: string; value: string; most: number; save: (text: string) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const done = () => {
    if (typed !== null && typed.trim() !== value) save(typed.trim());
    setTyped(null);
  };
  return (
    <TextField
      label={label}
      value={typed ?? value}
      maxLength={most}
      onChange={setTyped}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === "Enter") done();
        if (event.key === "Escape") setTyped(null);
      }}
      className="min-w-0 flex-1"
    />
  );
}
