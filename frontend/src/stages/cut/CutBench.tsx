import { Ear, Undo2 } from "lucide-react";
import type { Head, PageWords, Token } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { select, usePlace } from "../../desk/place";
import { allAround } from "../../page/edit";
import { RestTools } from "../../page/RestTools";
import { covered, indexAt, selected } from "../../page/tokens";
import { player } from "../../player/player";
import { At } from "../../page/times";
import type { BenchProps } from "../../page/stage";
import { Button, Heading } from "../../ui/controls";
import { Length } from "./Length";
import { SelectTools } from "./SelectTools";
import { SpliceTools } from "./SpliceTools";
import { StaveTools } from "./StaveTools";

function text(list: readonly Token[], begin: number, end: number): string {
  const words: string[] = [];
  for (let i = indexAt(list, begin); i < list.length; i++) {
    const token = list[i];
    if (!token || token.at >= end) break;
    if (token.k === "w" && token.at + token.len > begin) words.push(token.text);
    if (words.length > 14) break;
  }
  return words.length > 14 ? `${words.slice(0, 12).join(" ")} …` : words.join(" ");
}

const SHOWN = 200;

export default function CutBench(props: BenchProps) {
  const { head, page } = props;
  return head && page ? <Bench {...props} head={head} page={page} /> : null;
}

function Bench({ episode, head, page, tokens, sources, voices, edit, reveal }: BenchProps & { head: Head; page: PageWords }) {
  const selection = usePlace((state) => state.selection);
  const picked = selected(tokens.list, selection);
  const length = picked ? picked[1] - picked[0] : 0;
  // Without a selection it is about the word at the playhead, as with the keys.
  const cursor = usePlace((state) => state.cursor);
  const at = tokens.list[indexAt(tokens.list, cursor)]?.at ?? 0;
  const here = picked ?? [at, at];
  const out = picked ? covered(head.struck, ...picked) : 0;
  const saved = head.recorded_time - head.running_time;
  const range = picked && { begin: picked[0], end: picked[1] };
  const token = picked && tokens.list[indexAt(tokens.list, picked[0])];
  const rest = token?.k === "r" && picked && token.at + token.len >= picked[1] ? token : null;
  return (
    <section aria-label="Cut">
      <Heading aside={picked ? clock(length, 1) : undefined}>Selection</Heading>
      {picked ? (
        <p className="line-clamp-3 font-serif leading-snug">{text(tokens.list, ...picked) || "a rest"}</p>
      ) : (
        <p className="leading-snug text-soft">Drag over words and rests, or hold Shift and press the arrow keys. W selects the sentence.</p>
      )}
      <div className="mt-2 flex flex-wrap gap-1.5">
        <Button look="strong" why={!picked ? "Select words first" : out >= length && "All of it is already struck"} hint="Delete" onClick={() => picked && edit.strike([picked])}>
          Strike
        </Button>
        <Button why={!range && "Select words first"} hint="Hides it; a mark shows where it was (Shift+Delete)" onClick={() => range && edit.operate({ kind: "lift", ranges: [range], why: "by hand" })}>
          Lift
        </Button>
        <Button why={!picked ? "Select words first" : out === 0 && "None of it is struck"} hint="B" onClick={() => picked && edit.putBack([picked])}>
          Put back
        </Button>
        <Button why={!picked ? "Select words first" : out >= length && "All of it is already struck"} hint="Play it without these words; nothing changes (T)" onClick={() => picked && void player.tryWithout([picked])}>
          <Ear size={14} /> Try
        </Button>
      </div>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        <Button className="!px-2 !py-0.5 text-xs" hint="Strike everything before here ([)" onClick={() => edit.strike(allAround(head, here, "before"))}>
          Strike all before
        </Button>
        <Button className="!px-2 !py-0.5 text-xs" hint="Strike everything from here on (])" onClick={() => edit.strike(allAround(head, here, "after"))}>
          Strike all after
        </Button>
        <Button className="!px-2 !py-0.5 text-xs" why={!picked && "Select what to keep first"} hint="Strike everything but this (Shift+K)" onClick={() => edit.strike(allAround(head, here, "others"))}>
          Keep only this
        </Button>
      </div>
      {picked && <p className="mt-1.5 text-soft">total without it {clock(head.running_time - (length - out))}</p>}
      {rest && <RestTools key={`${rest.at}-${head.revision}`} rest={rest} head={head} edit={edit} />}
      <StaveTools {...{ head, page, tokens, sources, voices, edit, picked, track: selection?.track }} />
      <SelectTools {...{ episode, head, page, tokens, picked }} />
      <SpliceTools head={head} edit={edit} reveal={reveal} />
      <Length head={head} edit={edit} />
      <Heading aside={head.struck.length ? `${head.struck.length} · ${clock(saved)}` : undefined}>Taken out</Heading>
      {head.struck.length === 0 ? (
        <p className="leading-snug text-soft">Nothing yet. What you strike stays readable and can be put back, today or next month.</p>
      ) : (
        <>
          <Button className="mb-1.5 w-full" onClick={() => edit.putBack([[0, head.recorded_time]])}>
            <Undo2 size={14} /> Put everything back
          </Button>
          <ul className="overflow-hidden rounded-md border border-line bg-paper">
            {head.struck.slice(0, SHOWN).map(([begin = 0, end = 0]) => (
              <li key={begin} className="flex items-center gap-2 border-b border-line px-2 py-1 last:border-0">
                <button
                  type="button"
                  className="flex min-w-0 flex-1 items-baseline gap-2 text-left hover:text-blue"
                  onClick={() => {
                    select({ anchor: begin, focus: Math.max(begin, end - 1) });
                    player.seek(begin);
                    reveal(begin);
                  }}
                >
                  <span className="font-mono text-xs text-soft">
                    <At laid={begin} />
                  </span>
                  <span className="truncate font-serif">{text(tokens.list, begin, end) || `rest ${((end - begin) / RATE).toFixed(1)} s`}</span>
                </button>
                <Button look="quiet" className="!px-1.5 !py-0.5 text-xs" onClick={() => edit.putBack([[begin, end]])}>
                  Put back
                </Button>
              </li>
            ))}
          </ul>
          {head.struck.length > SHOWN && <p className="mt-1 text-soft">and {head.struck.length - SHOWN} more, on the page</p>}
        </>
      )}
    </section>
  );
}
