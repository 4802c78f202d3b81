/** Captions: the rules they keep to, what is wrong with them, and each as it is read. */
import clsx from "clsx";
import { ChevronRight } from "lucide-react";
import type { Head } from "../../api/client";
import type { SchemaCaptionRulesField as Rules } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import type { BenchProps } from "../../page/stage";
import { indexAt, selected, type Tokens } from "../../page/tokens";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { lookAt, nextFault, useCues, type Cue } from "./cues";

export default function CaptionsBench({ head, edit, tokens, reveal }: BenchProps) {
  return head ? <Bench {...{ head, edit, tokens, reveal }} /> : null;
}

interface BenchPart {
  head: Head;
  edit: Edit;
  tokens: Tokens;
  reveal: BenchProps["reveal"];
}

/** So many captions are listed around the playhead. */
const BEFORE = 3;
const AFTER = 9;

function Bench({ head, edit, tokens, reveal }: BenchPart) {
  const found = useCues(head.id, head.revision, head.layout);
  const cursor = usePlace((state) => state.cursor);
  if (found.error) return <p className="mt-4 text-red">{found.error.message}</p>;
  const cues = found.data?.cues ?? [];
  const wrong = cues.filter((cue) => cue.faults.length > 0).length;
  const here = Math.max(0, cues.findLastIndex((cue) => cue.begin <= cursor));
  const shown = cues.slice(Math.max(0, here - BEFORE), here + AFTER);
  return (
    <section aria-label="Captions">
      <Heading aside={`${cues.length}`}>Captions</Heading>
      <div className="mb-1.5 flex items-center gap-1.5">
        <p className="flex-1 leading-snug text-soft">{wrong ? `${wrong} of them are against the rules, or hold a word in doubt.` : "All of them keep the rules."}</p>
        <Button why={!wrong && "Nothing is wrong"} hint="Go to the next one (D)" onClick={() => lookAt(nextFault(cues, cursor), reveal)}>
          Next <ChevronRight size={14} />
        </Button>
      </div>
      <ol aria-label="Captions near the playhead" className="overflow-hidden rounded-md border border-line bg-paper">
        {shown.map((cue) => (
          <Row key={cue.begin} cue={cue} now={cue === cues[here]} onClick={() => lookAt(cue, reveal)} />
        ))}
        {cues.length === 0 && <li className="px-2 py-1.5 leading-snug text-soft">Nothing is said that could be captioned.</li>}
      </ol>
      <Breaking {...{ edit, tokens }} />
      <RulesForm rules={head.captions} edit={edit} />
    </section>
  );
}

/** Where captions break against the rules, because somebody wants it. */
function Breaking({ edit, tokens }: Pick<BenchPart, "edit" | "tokens">) {
  const picked = selected(tokens.list, usePlace((state) => state.selection));
  const cursor = usePlace((state) => state.cursor);
  const at = picked?.[0] ?? tokens.list[indexAt(tokens.list, cursor)]?.at ?? 0;
  const put = (before: "cue" | "line" | "together" | "") => edit.operate({ kind: "caption break", at, before });
  const alone = (on: boolean) => picked && edit.operate({ kind: "caption alone", begin: Math.round(picked[0]), end: Math.round(picked[1]), on });
  const none = !picked && "Select words first";
  return (
    <>
      <Heading>Before this word</Heading>
      <div className="flex flex-wrap gap-1.5">
        <Button hint="Enter" onClick={() => put("cue")}>
          New caption
        </Button>
        <Button hint="Shift+Enter" onClick={() => put("line")}>
          New line
        </Button>
        <Button hint="Delete or Backspace, where nothing is selected" onClick={() => put("together")}>
          Join
        </Button>
        <Button hint="Break by the rules here" onClick={() => (picked ? alone(false) : put(""))}>
          By the rules
        </Button>
        <Button why={none} hint="The selected words stand on a screen of their own" onClick={() => alone(true)}>
          Own screen
        </Button>
      </div>
    </>
  );
}

function Row({ cue, now, onClick }: { cue: Cue; now: boolean; onClick: () => void }) {
  return (
    <li className={clsx("border-b border-line last:border-0", now && "bg-side")}>
      <button type="button" aria-current={now || undefined} className="block w-full px-2 py-1 text-left hover:text-blue" onClick={onClick}>
        <span className="flex justify-between font-mono text-xs text-soft">
          <span>{clock(cue.start, 1)}</span>
          <span className={cue.faults.some((each) => each.fault === "too fast") ? "text-red" : undefined}>
            {((cue.end - cue.start) / RATE).toFixed(1)} s · {Math.round(cue.rate)}/s
          </span>
        </span>
        {cue.lines.map((line, index) => (
          <span key={index} className="block font-serif text-xs leading-snug">
            {line}
          </span>
        ))}
        {cue.faults.map((each) => (
          <span key={each.fault} className="block text-xs leading-snug text-ochre">
            {each.told}
          </span>
        ))}
      </button>
    </li>
  );
}

const NUMBERS = [
  ["characters", "characters on a line", "", 10, 100, 1],
  ["lines", "lines at once", "", 1, 3, 1],
  ["rate", "characters a second", "", 5, 60, 1],
] as const;

const TIMES = [
  ["shortest", "shortest time", 0.1, 20],
  ["longest", "longest time", 0.5, 60],
  ["gap", "gap between two", 0, 2],
] as const;

/** What captions keep to; each change is a step of the edition. */
function RulesForm({ rules, edit }: { rules: Rules; edit: Edit }) {
  const set = (next: Partial<Rules>) => edit.operate({ kind: "caption rules", rules: { ...rules, ...next } });
  return (
    <>
      <Heading>Rules</Heading>
      <div className="space-y-1">
        {NUMBERS.map(([name, label, unit, least, most, step]) => (
          <Line key={name} label={label}>
            <NumberField label={label} {...{ unit, least, most, step }} value={rules[name]} className="w-14" onChange={(value) => set({ [name]: value })} />
          </Line>
        ))}
        {TIMES.map(([name, label, least, most]) => (
          <Line key={name} label={label}>
            <NumberField label={`${label}, seconds`} unit="s" {...{ least, most }} step={0.1} digits={2} value={rules[name] / RATE} className="w-14" onChange={(seconds) => set({ [name]: Math.round(seconds * RATE) })} />
          </Line>
        ))}
        <label className="flex items-center justify-between gap-2 text-soft">
          stay until the next begins <Tick checked={rules.hold} onChange={(hold) => set({ hold })} />
        </label>
        <label className="flex items-center justify-between gap-2 text-soft">
          sounds in brackets <Tick checked={rules.sounds} onChange={(sounds) => set({ sounds })} />
        </label>
        <Line label="names of voices">
          <Pick
            label="Names of voices"
            value={rules.names}
            options={[
              ["never", "never"],
              ["when it changes", "when it changes"],
              ["always", "always"],
            ]}
            onChange={(names) => set({ names })}
          />
        </Line>
        {rules.names !== "never" && (
          <Line label="written as">
            <Pick
              label="How names are written"
              value={rules.named}
              options={[
                ["NAME:", "NAME:"],
                ["dash", "– a dash"],
              ]}
              onChange={(named) => set({ named })}
            />
          </Line>
        )}
      </div>
    </>
  );
}
