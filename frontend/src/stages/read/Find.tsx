import { ChevronDown, ChevronUp } from "lucide-react";
import { useMemo, useState, type KeyboardEvent } from "react";
import type { PageWords, Voice } from "../../api/client";
import { select, usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { around, find, type Range } from "../../page/find";
import { stepTo } from "../../page/go";
import type { Tokens } from "../../page/tokens";
import { At } from "../../page/times";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Pick, TextField, Tick } from "../../ui/fields";
import { FindInShow } from "./FindInShow";
import { FIND_FIELD } from "./findField";

interface FindProps {
  showId: string;
  page: PageWords;
  tokens: Tokens;
  voices: ReadonlyMap<string, Voice>;
  edit: Edit;
  reveal: (laid: number) => void;
}

const SHOWN = 100;

/** Find words in the edition, go from one place to the next, and retype them one by one or all at once. */
export function Find({ showId, page, tokens, voices, edit, reveal }: FindProps) {
  const [text, setText] = useState("");
  const [whole, setWhole] = useState(false);
  const [voice, setVoice] = useState("");
  const [by, setBy] = useState("");
  const [everywhere, setEverywhere] = useState(false);
  const selection = usePlace((state) => state.selection);
  const hits = useMemo(() => find(page, tokens, { text, whole, voice }), [page, tokens, text, whole, voice]);
  const at = selection ? Math.min(selection.anchor, selection.focus) : -1;
  const current = hits.findIndex(([begin]) => begin === at);
  const replace = (ranges: readonly Range[]) =>
    edit.operate({ kind: "retype", ranges: ranges.map(([begin, end]) => ({ begin, end })), text: by.trim() });
  const keys = (event: KeyboardEvent) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    stepTo(hits, event.shiftKey ? -1 : 1, reveal);
  };
  const replaceOne = () => {
    const hit = hits[current];
    if (hit) replace([hit]);
    stepTo(hits, 1, reveal);
  };
  return (
    <section aria-label="Find">
      <Heading aside={text.trim() && !everywhere ? (current >= 0 ? `${current + 1} of ${hits.length}` : `${hits.length}`) : undefined}>Find</Heading>
      <div className="space-y-1.5">
        <div className="flex gap-1.5">
          <TextField id={FIND_FIELD} label="Words to find" value={text} placeholder="Words to find" onChange={setText} onKeyDown={keys} className="flex-1" />
          <Button className="!px-2" aria-label="Find previous" why={!hits.length && "Nothing was found"} onClick={() => stepTo(hits, -1, reveal)}>
            <ChevronUp size={15} />
          </Button>
          <Button className="!px-2" aria-label="Find next" why={!hits.length && "Nothing was found"} onClick={() => stepTo(hits, 1, reveal)}>
            <ChevronDown size={15} />
          </Button>
        </div>
        <div className="flex items-center gap-2 text-soft">
          <label className="flex items-center gap-1 whitespace-nowrap">
            <Tick checked={whole} onChange={setWhole} /> whole words
          </label>
          <label className="flex items-center gap-1 whitespace-nowrap">
            <Tick checked={everywhere} onChange={setEverywhere} /> whole show
          </label>
          {voices.size > 0 && (
            <Pick label="Said by" value={voice} options={[["", "any voice"], ...[...voices.values()].map((each) => [each.id, `by ${each.shown}`] as const)]} onChange={setVoice} className="min-w-0 flex-1" />
          )}
        </div>
        {everywhere && <FindInShow showId={showId} words={text} whole={whole} voice={voice} />}
        {hits.length > 0 && !everywhere && (
          <>
            <div className="flex gap-1.5">
              <TextField label="Retype as" value={by} placeholder="Retype as" onChange={setBy} onKeyDown={(event) => event.key === "Enter" && replaceOne()} className="flex-1" />
              <Button why={!by.trim() && "Write the new text first"} hint="This one, then on to the next (Enter)" onClick={replaceOne}>
                One
              </Button>
              <Button why={!by.trim() && "Write the new text first"} hint="Every place in the list, as one step" onClick={() => replace(hits)}>
                All
              </Button>
            </div>
            <ul className="max-h-56 overflow-y-auto rounded-md border border-line bg-paper" aria-label="Places found">
              {hits.slice(0, SHOWN).map((hit, index) => (
                <Hit key={hit[0]} hit={hit} tokens={tokens} now={index === current} go={() => goTo(hit, reveal)} />
              ))}
            </ul>
            {hits.length > SHOWN && <p className="text-soft">and {hits.length - SHOWN} more</p>}
          </>
        )}
        {text.trim() && hits.length === 0 && !everywhere && <p className="text-soft">No matches.</p>}
      </div>
    </section>
  );
}

function goTo([begin, end]: Range, reveal: (laid: number) => void) {
  select({ anchor: begin, focus: Math.max(begin, end - 1) });
  player.seek(begin);
  reveal(begin);
}

function Hit({ hit, tokens, now, go }: { hit: Range; tokens: Tokens; now: boolean; go: () => void }) {
  const [before, said, after] = useMemo(() => around(tokens, hit, 2), [tokens, hit]);
  return (
    <li className={now ? "bg-pick" : ""}>
      <button type="button" onClick={go} aria-current={now} className="flex w-full items-baseline gap-2 px-2 py-1 text-left hover:bg-side">
        <span className="font-mono text-xs text-soft"><At laid={hit[0]} /></span>
        <span className="min-w-0 flex-1 truncate font-serif">
          <span className="text-soft">{before}</span> <b>{said}</b> <span className="text-soft">{after}</span>
        </span>
      </button>
    </li>
  );
}
