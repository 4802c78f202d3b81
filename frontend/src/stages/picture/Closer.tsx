/** Punch-ins: the picture comes closer on selected words, or behind every second splice, so that a jump looks meant. */
import { useState } from "react";
import type { Head } from "../../api/client";
import type { SchemaCloserOut as Place } from "../../api/schema";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import type { Shot } from "../../page/shots";
import { selected, type Tokens } from "../../page/tokens";
import { Button } from "../../ui/controls";
import { Line, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";

interface CloserProps {
  closer: readonly Place[];
  shot: Shot | undefined;
  head: Head;
  tokens: Tokens;
  edit: Edit;
}

const USUAL = 15;

export function Closer({ closer, shot, head, tokens, edit }: CloserProps) {
  const selection = usePlace((state) => state.selection);
  const cursor = usePlace((state) => state.cursor);
  const words = selected(tokens.list, selection);
  const range = words ? { begin: words[0], end: words[1] } : shot && { begin: shot.begin, end: shot.end };
  const here = closer.find((each) => each.begin <= cursor && cursor < each.end);
  const [percent, setPercent] = useState(here?.percent ?? USUAL);
  const [slowly, setSlowly] = useState(here?.slowly ?? false);
  const put = (ranges: readonly { begin: number; end: number }[], by = percent) => edit.operate({ kind: "punch in", ranges: ranges.map(({ begin, end }) => ({ begin, end })), percent: by, slowly });
  const end = tokens.list.at(-1);
  // What lies behind the first splice is closer, what behind the second is not, and so on.
  const behind = head.splices.flatMap((begin, index) => (index % 2 ? [] : [{ begin, end: head.splices[index + 1] ?? (end ? end.at + end.len : begin) }])).filter(({ begin, end }) => begin < end);
  return (
    <div className="space-y-1.5">
      <Line label="closer by">
        <NumberField label="Closer by, per cent" unit="%" least={1} most={200} value={percent} className="w-12" onChange={setPercent} />
      </Line>
      <label className="flex items-center justify-between gap-2 text-soft">
        slowly, all the while <Tick checked={slowly} onChange={setSlowly} />
      </label>
      {here && here.beyond > 0 && <p className="leading-snug text-ochre">Here the picture is enlarged beyond its own pixels, by {here.beyond} %: it is softer than it was recorded.</p>}
      <div className="flex flex-wrap gap-1.5">
        <Button hint="This shot, or the words that are selected (Z)" why={!range && "Nothing is seen here"} onClick={() => range && put([range])}>
          {selection ? "These words" : "This shot"}
        </Button>
        <Button why={!behind.length && "There is no splice"} hint="Closer behind one splice, as it is behind the next" onClick={() => put(behind)}>
          Every second splice
        </Button>
        <Button look="quiet" why={!closer.length && "Nothing is closer"} onClick={() => put(closer.length && here ? [here] : closer, 0)}>
          {here ? "As it is here" : "As it is everywhere"}
        </Button>
      </div>
    </div>
  );
}
