/** What is seen in the shot at the playhead, or over the words that are selected: who, and in which framing. */
import clsx from "clsx";
import { useState } from "react";
import type { Voice } from "../../api/client";
import type { SchemaOwnFramingField as OwnFraming } from "../../api/schema";
import { select, usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { choose, type Shot } from "../../page/shots";
import { everybody } from "./actions";
import { inkOf } from "../../page/sources";
import { selected, type Tokens } from "../../page/tokens";
import { Button, Hint } from "../../ui/controls";
import { Pick } from "../../ui/fields";

interface ThisShotProps {
  shot: Shot;
  shots: readonly Shot[];
  seen: readonly string[];
  voices: ReadonlyMap<string, Voice>;
  tokens: Tokens;
  edit: Edit;
  /** Framings that the show has made. */
  own: readonly OwnFraming[];
}

type Framing = Shot["framing"];

/** The framings as they are drawn on their buttons: places in a picture of 32 by 18. */
const DRAWN: readonly (readonly [Framing, string, readonly (readonly [number, number, number, number])[]])[] = [
  ["single", "One of them", [[0, 0, 32, 18]]],
  ["side by side", "Side by side", [[0, 0, 15.5, 18], [16.5, 0, 15.5, 18]]],
  ["stacked", "Stacked", [[0, 0, 32, 8.5], [0, 9.5, 32, 8.5]]],
  ["large with small", "One large, the other small", [[0, 0, 32, 18], [22, 11, 8, 5]]],
  ["beside a card", "Beside the card", [[17, 0, 15, 18]]],
  ["grid", "In a grid", [[0, 0, 15.5, 8.5], [16.5, 0, 15.5, 8.5], [0, 9.5, 15.5, 8.5], [16.5, 9.5, 15.5, 8.5]]],
];

/** Framings that show one person. */
const ONE: ReadonlySet<Framing> = new Set(["single", "beside a card"]);

type Wider = "this" | "voice" | "all";

const WIDER: readonly (readonly [Wider, string])[] = [
  ["this", "this shot"],
  ["voice", "all of this voice"],
  ["all", "all shots"],
];

const INKS = ["var(--blue)", "var(--green)", "var(--plum)", "var(--ochre)"];

export function ThisShot({ shot, shots, seen, voices, tokens, edit, own }: ThisShotProps) {
  const selection = usePlace((state) => state.selection);
  const cursor = usePlace((state) => state.cursor);
  const [wider, setWider] = useState<Wider>("this");
  const words = selected(tokens.list, selection);
  const range = words ? { begin: words[0], end: words[1] } : shot;
  const put = (framing: Framing | null, who: readonly string[]) => {
    const all = { this: [range], voice: shots.filter((each) => each.voices.join() === shot.voices.join()), all: [...shots] };
    // What is put over all shots of others keeps who is seen in them.
    const ranges = selection ? [range] : all[wider];
    if (wider !== "all" || framing === null || selection) return choose(edit, ranges, framing, who);
    const groups = new Map<string, Shot[]>();
    for (const each of ranges as Shot[]) groups.set(each.voices.join(), [...(groups.get(each.voices.join()) ?? []), each]);
    for (const group of groups.values()) choose(edit, group, framing, ONE.has(framing) ? (group[0]?.voices.slice(0, 1) ?? []) : everybody(group[0] ?? shot, seen).slice(0, who.length));
  };
  const [before, after] = [shots[shots.indexOf(shot) - 1], shots[shots.indexOf(shot) + 1]];
  const pick = (framing: Framing) => put(framing, ONE.has(framing) ? shot.voices.slice(0, 1) : everybody(shot, seen).slice(0, framing === "grid" ? 9 : 4));
  const who = shot.voices.length ? shot.voices : seen.slice(0, 1);
  return (
    <div className="space-y-1.5">
      <div role="group" aria-label="Framing" className="flex gap-1">
        {DRAWN.map(([framing, name, slots]) => (
          <Hint key={framing} text={name}>
            <button type="button" aria-label={name} aria-pressed={shot.framing === framing} disabled={!ONE.has(framing) && seen.length < 2} onClick={() => pick(framing)} className={clsx("flex-1 rounded-md border bg-paper p-1 disabled:border-dashed", shot.framing === framing ? "border-2 border-blue p-[3px]" : "border-line")}>
              <svg viewBox="0 0 32 18" aria-hidden>
                {slots.map(([x, y, width, height], index) => (
                  <rect key={index} {...{ x, y, width, height }} rx={1} style={{ fill: INKS[index], stroke: "var(--paper)", strokeWidth: index ? 1 : 0 }} opacity={0.6} />
                ))}
              </svg>
            </button>
          </Hint>
        ))}
      </div>
      {own.length > 0 && (
        <div role="group" aria-label="Framings of the show" className="grid grid-cols-5 gap-1">
          {[...new Map(own.map((each) => [each.name, each])).values()].map(({ name, slots }) => (
            <Hint key={name} text={name}>
              <button type="button" aria-label={name} aria-pressed={shot.framing === name} onClick={() => put(name, everybody(shot, seen).slice(0, slots.length))} className={clsx("rounded-md border bg-paper p-1", shot.framing === name ? "border-2 border-blue p-[3px]" : "border-line")}>
                <svg viewBox="0 0 32 18" aria-hidden className="block w-full bg-bar">
                  {slots.map(([x = 0, y = 0, width = 0, height = 0], index) => (
                    <rect key={index} x={32 * x} y={18 * y} width={32 * width} height={18 * height} rx={1} style={{ fill: INKS[index % INKS.length] }} />
                  ))}
                </svg>
              </button>
            </Hint>
          ))}
        </div>
      )}
      <div role="group" aria-label="Who is seen" className="flex flex-wrap gap-1">
        {seen.map((voice) => {
          const shown = who.includes(voice);
          const known = voices.get(voice);
          const next = shown ? who.filter((each) => each !== voice) : ONE.has(shot.framing) ? [voice] : [...who, voice];
          return (
            <button key={voice} type="button" aria-pressed={shown} onClick={() => next.length && put(shot.framing, next)} className={clsx("inline-flex items-center gap-1.5 rounded-md border px-2 py-0.5 leading-5", shown ? "border-blue bg-paper text-ink" : "border-line text-soft hover:text-ink")}>
              <span className="size-2 rounded-full" style={{ background: `var(${inkOf(known)})` }} />
              {known?.shown ?? "Voice"}
            </button>
          );
        })}
      </div>
      <p className="leading-snug text-soft">{selection ? "For the words that are selected." : shot.by_hand ? "Chosen by hand: it stays when shots follow anew." : "It follows the words. What you choose here stays."}</p>
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        {!selection && (
          <Pick label="Which shots are meant" value={wider} options={WIDER} onChange={setWider} />
        )}
        <Button look="quiet" why={!before && "No shot is before it"} hint="The one before goes on (Shift+E)" onClick={() => before && put(before.framing, before.voices)}>
          Hide
        </Button>
        <Button look="quiet" why={(cursor <= shot.begin || cursor >= shot.end) && "Put the playhead inside the shot"} hint="Selects the shot from the playhead on: what you choose then is seen there" onClick={() => select({ anchor: cursor, focus: shot.end - 1 })}>
          Split here
        </Button>
        <Button look="quiet" why={!after && "No shot is after it"} hint="This one goes on over the next" onClick={() => after && choose(edit, [after], shot.framing, shot.voices)}>
          Join with the next
        </Button>
        <Button look="quiet" why={!shot.by_hand && !selection && "Nobody chose it"} onClick={() => put(null, [])}>
          As it follows
        </Button>
      </div>
    </div>
  );
}
