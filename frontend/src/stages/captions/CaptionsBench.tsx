/** Captions: each as it is read and what is wrong with it, how they look, and the rules they keep to. */
import clsx from "clsx";
import { ChevronRight } from "lucide-react";
import { useState } from "react";
import type { Episode, Head, Voice } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { desk } from "../../desk/desk";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import type { BenchProps } from "../../page/stage";
import { indexAt, selected, type Tokens } from "../../page/tokens";
import { Button, Choice, Heading } from "../../ui/controls";
import { breakAt, lookAt, nextFault, useCues, type Before, type Cue } from "./cues";
import { Bring } from "./Bring";
import { Looks } from "./Looks";
import { Second } from "./Second";
import { RulesForm } from "./RulesForm";
import { Wording } from "./Wording";

export default function CaptionsBench({ head, ...rest }: BenchProps) {
  return head ? <Bench head={head} {...rest} /> : null;
}

interface BenchPart {
  episode: Episode;
  head: Head;
  edit: Edit;
  tokens: Tokens;
  voices: ReadonlyMap<string, Voice>;
  reveal: BenchProps["reveal"];
}

/** So many captions are listed around the playhead. */
const BEFORE = 2;
const AFTER = 6;

type Part = "text" | "look" | "rules";

function Bench({ episode, head, edit, tokens, voices, reveal }: BenchPart) {
  const [part, setPart] = useState<Part>("text");
  const found = useCues(head.id, head.revision, head.layout);
  if (found.error) return <p className="mt-4 text-red">{found.error.message}</p>;
  const cues = found.data?.cues ?? [];
  return (
    <section aria-label="Captions">
      <Heading aside={`${cues.length}`}>Captions</Heading>
      <Choice
        label="Part of the captions"
        value={part}
        options={[
          ["text", "Text"],
          ["look", "Look"],
          ["rules", "Rules"],
        ]}
        onChange={setPart}
      />
      {part === "text" && <Text {...{ cues, edit, tokens, reveal }} edition={head.id} second={head.second_language} />}
      {part === "look" && <Looks {...{ head, voices, tokens, edit }} show={episode.show_id} />}
      {part === "rules" && <RulesForm {...{ head, edit }} show={episode.show_id} />}
    </section>
  );
}

function Text({ edition, second, cues, edit, tokens, reveal }: Pick<BenchPart, "edit" | "tokens" | "reveal"> & { edition: string; second: string; cues: readonly Cue[] }) {
  const cursor = usePlace((state) => state.cursor);
  const wrong = cues.filter((cue) => cue.faults.length > 0).length;
  const here = Math.max(0, cues.findLastIndex((cue) => cue.begin <= cursor));
  const first = Math.max(0, here - BEFORE);
  const shown = cues.slice(first, here + AFTER);
  return (
    <>
      <div className="mt-2 mb-1.5 flex items-center gap-1.5">
        <p className="flex-1 leading-snug text-soft">{wrong ? `${wrong} of them are against the rules, or hold a word in doubt.` : "All of them keep the rules."}</p>
        <Button why={!wrong && "Nothing is wrong"} hint="Go to the next one (D)" onClick={() => lookAt(nextFault(cues, cursor), reveal)}>
          Next <ChevronRight size={14} />
        </Button>
      </div>
      <ol aria-label="Captions near the playhead" className="overflow-hidden rounded-md border border-line bg-paper">
        {shown.map((cue, index) => (
          <Row key={cue.begin} cue={cue} now={cue === cues[here]} onClick={() => lookAt(cue, reveal)} mend={() => mend(cue, cues[first + index + 1], edit, reveal)} />
        ))}
        {cues.length === 0 && <li className="px-2 py-1.5 leading-snug text-soft">Nothing is said that could be captioned.</li>}
      </ol>
      <Wording cue={cues[here]} edit={edit} />
      <Breaking {...{ edit, tokens }} />
      <Bring {...{ edition, edit, reveal }} />
      <Second {...{ edition, edit }} language={second} />
    </>
  );
}

/** What mends a fault, by its kind, in a word or two. */
const MENDS: Partial<Record<Cue["faults"][number]["fault"], string>> = {
  "too fast": "Shorten",
  "too long": "Part it",
  "too short": "Join with the next",
  doubtful: "Correct",
};

/** Mend what is wrong first with a caption. */
function mend(cue: Cue, next: Cue | undefined, edit: Edit, reveal: BenchProps["reveal"]) {
  lookAt(cue, reveal);
  switch (cue.faults.find((each) => MENDS[each.fault])?.fault) {
    case "doubtful":
      return desk().set({ retyping: true });
    case "too fast":
      return void requestAnimationFrame(() => document.querySelector<HTMLTextAreaElement>("[aria-label='What this caption reads']")?.select());
    case "too long":
      return breakAt(edit, cue.breaks[0] ?? (cue.begin + cue.until) / 2, "cue");
    case "too short":
      return next && breakAt(edit, next.begin, "together");
  }
}

/** Where captions break against the rules, because somebody wants it. */
function Breaking({ edit, tokens }: Pick<BenchPart, "edit" | "tokens">) {
  const picked = selected(tokens.list, usePlace((state) => state.selection));
  const cursor = usePlace((state) => state.cursor);
  const at = picked?.[0] ?? tokens.list[indexAt(tokens.list, cursor)]?.at ?? 0;
  const put = (before: Before) => breakAt(edit, at, before);
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

interface RowProps {
  cue: Cue;
  now: boolean;
  onClick: () => void;
  mend: () => unknown;
}

function Row({ cue, now, onClick, mend }: RowProps) {
  const mended = cue.faults.map((each) => MENDS[each.fault]).find(Boolean);
  return (
    <li className={clsx("relative border-b border-line last:border-0", now && "bg-side")}>
      <button type="button" aria-current={now || undefined} className="block w-full px-2 py-1 text-left hover:text-blue" onClick={onClick}>
        <span className="flex justify-between font-mono text-xs text-soft">
          <span>{clock(cue.start, 1)}</span>
          <span className={cue.faults.some((each) => each.fault === "too fast") ? "text-red" : undefined}>
            {((cue.end - cue.start) / RATE).toFixed(1)} s · {Math.round(cue.rate)}/s
          </span>
        </span>
        {cue.lines.map((line, index) => (
          <span key={index} className={clsx("block font-serif text-xs leading-snug", cue.said && "text-plum")}>
            {line}
          </span>
        ))}
        {cue.second.map((line, index) => (
          <span key={`second ${index}`} className="block font-serif text-xs leading-snug text-teal">
            {line}
          </span>
        ))}
        {cue.faults.map((each) => (
          <span key={each.fault} className={clsx("block text-xs leading-snug text-ochre", mended && "pr-24")}>
            {each.told}
          </span>
        ))}
      </button>
      {mended && (
        <button type="button" className="absolute right-2 bottom-1 text-xs text-blue underline-offset-2 hover:underline" onClick={mend}>
          {mended}
        </button>
      )}
    </li>
  );
}
