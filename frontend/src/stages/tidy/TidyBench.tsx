import clsx from "clsx";
import { Check, Columns3, Play, Undo2, X } from "lucide-react";
import { useEffect, useMemo, useRef } from "react";
import { client, got, type Head, type Voice } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { desk } from "../../desk/desk";
import type { Edit } from "../../page/edit";
import { around } from "../../page/find";
import type { Tokens } from "../../page/tokens";
import { At } from "../../page/times";
import { player } from "../../player/player";
import type { BenchProps } from "../../page/stage";
import { Button, Heading } from "../../ui/controls";
import { TextField, Tick } from "../../ui/fields";
import { Action, useTidySettings } from "./settings";
import { Beside } from "./Beside";
import { Rhythm } from "./Rhythm";
import { WordLists } from "./WordLists";
import { accept, BREATHS, type Finding, going, KINDS, listed, lookAt, neighbour, pickOf, pickTake, refuse, reopen, together, useCurrent, useFindings, useJudging } from "./judging";

interface TidyProps {
  showId: string;
  head: Head;
  tokens: Tokens;
  voices: ReadonlyMap<string, Voice>;
  edit: Edit;
  reveal: (laid: number) => void;
}

const SHOWN = 150;
const seconds = (ticks: number) => `${(ticks / RATE).toFixed(1)} s`;

/** What the machine proposes to take out, to be judged by ear: by kind, one by one, or all at once. */
export default function TidyBench({ episode, head, tokens, voices, edit, reveal }: BenchProps) {
  return head ? <Bench showId={episode.show_id} {...{ head, tokens, voices, edit, reveal }} /> : null;
}

function Bench({ showId, head, tokens, voices, edit, reveal }: TidyProps) {
  const found = useFindings(head.id, head.revision);
  const { kind, filter, judged, set } = useJudging();
  const current = useCurrent();
  const settings = useTidySettings(showId);
  const all = useMemo(() => found.data?.findings ?? [], [found.data]);
  // Which ones are listed depends on the store, too.
  // eslint-disable-next-line react-hooks/exhaustive-deps
  const list = useMemo(() => listed(all), [all, kind, filter, judged]);
  const unheard = found.data?.unheard.join() ?? "";
  useEffect(() => {
    if (unheard) void got(client.POST("/api/editions/{edition_id}/listen", { params: { path: { edition_id: head.id } } })).catch(() => undefined);
  }, [unheard, head.id]);
  if (found.isError) return <p className="mt-4 text-red">{found.error.message}</p>;
  if (!found.data) return <p className="mt-4 text-soft">Looking for things to tidy …</p>;
  const open = all.filter((each) => each.state === "open");
  const openListed = together(list);
  const large = open.filter((each) => each.large).length;
  const twice = open.filter((each) => each.twice).length;
  const step = (finding: Finding | undefined) => lookAt(finding, reveal);
  return (
    <section aria-label="Tidy">
      <Heading aside={`${open.length} open · ${clock(goes(open))}`}>Tidy</Heading>
      <ul aria-label="Kinds of findings" className="overflow-hidden rounded-md border border-line bg-paper">
        <KindRow name="Everything" of={all} chosen={kind === "all"} onChoose={() => set({ kind: "all" })} onAccept={() => accept(head.id, edit, together(open))} />
        {[...KINDS, ...(settings.known?.soften_breaths ? [BREATHS] : [])].map(([key, name]) => {
          const mine = all.filter((each) => each.kind === key);
          const waiting = mine.filter((each) => each.state === "open");
          return <KindRow key={key} name={name} of={mine} chosen={kind === key} onChoose={() => set({ kind: key })} onAccept={() => accept(head.id, edit, together(waiting))} />;
        })}
      </ul>
      {large > 0 && <p className="mt-1.5 leading-snug text-ochre">{large === 1 ? "One finding takes" : `${large} findings take`} a large part of the recording. The ticks leave {large === 1 ? "it" : "them"} out.</p>}
      {twice > 0 && <p className="mt-1.5 leading-snug text-ochre">{twice === 1 ? "One sentence was" : `${twice} sentences were`} said twice, complete both times. The ticks leave {twice === 1 ? "it" : "them"} out.</p>}
      {unheard && <p className="mt-1.5 text-soft">Still listening for voice without words …</p>}
      {kind === "long rest" && <Rhythm head={head} voices={voices} thresholds={found.data.thresholds} settings={settings} />}
      {kind !== "all" && <Action kind={kind} settings={settings} />}
      <WordLists kind={kind} settings={settings} />
      {(kind === "all" || kind === "retake") && <Beside edition={head.id} revision={head.revision} reveal={reveal} />}
      <div className="mt-3 flex items-center gap-2">
        <TextField label="Filter findings" value={filter} placeholder="Filter findings" onChange={(text) => set({ filter: text })} className="flex-1" />
        <label className="flex items-center gap-1 whitespace-nowrap text-soft">
          <Tick checked={judged} onChange={(checked) => set({ judged: checked })} /> Show judged
        </label>
      </div>
      <div className="mt-2 flex items-center gap-1.5">
        <Button look="strong" why={!openListed.length && "None of the findings listed can be judged together"} hint="Everything listed, as one step" onClick={() => accept(head.id, edit, openListed)}>
          <Check size={14} /> Accept these {openListed.length}
        </Button>
        <Button why={!openListed.length && "None of the findings listed can be judged together"} onClick={() => void refuse(head.id, openListed)}>
          <X size={14} /> Refuse
        </Button>
        <span className="ml-auto font-mono text-xs text-soft">{clock(goes(openListed))}</span>
      </div>
      {list.length === 0 && <p className="mt-3 leading-snug text-soft">{all.length ? "No findings of this kind are open." : "Nothing to tidy."}</p>}
      <ul aria-label="Findings" className="mt-2 space-y-1">
        {list.slice(0, SHOWN).map((finding) => (
          <Row key={finding.id} finding={finding} current={finding.id === current} {...{ head, tokens, edit, reveal }} next={() => step(neighbour(list, 1))} />
        ))}
      </ul>
      {list.length > SHOWN && <p className="mt-1 text-soft">and {list.length - SHOWN} more</p>}
    </section>
  );
}

/** What stands for findings in which nothing is said. */
const WITHOUT_TEXT: Partial<Record<Finding["kind"], (why: string) => string>> = { "long rest": (why) => `rest of ${why}`, breath: () => "breath" };

const goes = (findings: readonly Finding[]) => findings.reduce((sum, each) => sum + each.goes, 0);

interface KindRowProps {
  name: string;
  of: readonly Finding[];
  chosen: boolean;
  onChoose: () => void;
  onAccept: () => void;
}

function KindRow({ name, of, chosen, onChoose, onAccept }: KindRowProps) {
  const open = of.filter((each) => each.state === "open");
  const done = of.filter((each) => each.state === "accepted").length;
  return (
    <li className={clsx("flex items-center gap-1 border-b border-line py-0.5 pr-1 last:border-0", chosen && "bg-pick")}>
      <button type="button" aria-pressed={chosen} data-kind={name} data-open={open.length} onClick={onChoose} className="flex min-w-0 flex-1 items-baseline gap-2 px-2 py-0.5 text-left">
        <span className={clsx("min-w-0 flex-1 truncate", chosen && "font-semibold", of.length === 0 && "text-soft")}>{name}</span>
        {done > 0 && <span className="font-mono text-xs text-green" title={`${done} accepted`}>{done} ✓</span>}
        <span className="w-6 text-right font-mono text-xs">{open.length || "–"}</span>
        <span className="sr-only">open</span>
        <span className="w-9 text-right font-mono text-xs text-soft">{open.length ? clock(goes(open)) : ""}</span>
      </button>
      <Button look="quiet" className="!px-1.5 !py-0.5" why={!open.length && "Nothing of this kind is open"} aria-label={`Accept all: ${name}`} hint="Accept all of these, as one step" onClick={onAccept}>
        <Check size={13} />
      </Button>
    </li>
  );
}

interface RowProps {
  finding: Finding;
  current: boolean;
  head: Head;
  tokens: Tokens;
  edit: Edit;
  reveal: (laid: number) => void;
  next: () => void;
}

function Row({ finding, current, head, tokens, edit, reveal, next }: RowProps) {
  const row = useRef<HTMLLIElement>(null);
  const [before, , after] = useMemo(() => around(tokens, [finding.begin, finding.end], 3), [tokens, finding]);
  useEffect(() => {
    if (current) row.current?.scrollIntoView({ block: "nearest" });
  }, [current]);
  const said = finding.text || WITHOUT_TEXT[finding.kind]?.(finding.why) || "sound of voice";
  return (
    <li ref={row} aria-current={current} className={clsx("rounded-md border bg-paper", current ? "border-blue" : "border-line")}>
      <button type="button" onClick={() => lookAt(finding, reveal)} className="flex w-full items-baseline gap-2 px-2 py-1 text-left hover:bg-side">
        <span className="font-mono text-xs text-soft"><At laid={finding.begin} /></span>
        <span className={clsx("min-w-0 flex-1 font-serif leading-snug", !current && "truncate")}>
          <span className="text-soft">{before}</span> <b className={clsx(finding.state === "accepted" && "text-red line-through", !finding.text && "font-normal italic")}>{short(said)}</b> <span className="text-soft">{after}</span>
        </span>
        <span className="font-mono text-xs whitespace-nowrap text-soft">{finding.state !== "open" ? finding.state : finding.goes ? seconds(finding.goes) : "softer"}</span>
      </button>
      {current && (
        <div className="space-y-1.5 border-t border-line px-2 py-1.5">
          <p className="leading-snug text-soft">{finding.why}</p>
          {finding.large && <p className="leading-snug text-ochre">A large part of the recording: can only be accepted by itself.</p>}
          {finding.twice && <p className="leading-snug text-ochre">Both are complete, so it may be meant: listen, and accept it by itself.</p>}
          {finding.takes.length > 0 && <Takes finding={finding} />}
          <div className="flex flex-wrap gap-1">
            <Button className="!px-1.5 !py-0.5 text-xs" hint="Shift+Space" onClick={() => player.playBetween(finding.begin - RATE, finding.end + RATE)}>
              With
            </Button>
            {finding.kind !== "breath" && (
              <Button className="!px-1.5 !py-0.5 text-xs" hint="T" why={finding.state === "accepted" && "It is already taken out"} onClick={() => void player.tryWithout(going(finding))}>
                Without
              </Button>
            )}
            {finding.state === "open" && (
              <>
                <Button look="strong" className="!px-1.5 !py-0.5 text-xs" hint="A" onClick={() => (accept(head.id, edit, [finding]), next())}>
                  Accept
                </Button>
                <Button className="!px-1.5 !py-0.5 text-xs" hint="X" onClick={() => (void refuse(head.id, [finding]), next())}>
                  Refuse
                </Button>
              </>
            )}
            {finding.state === "accepted" && (
              <Button className="!px-1.5 !py-0.5 text-xs" hint="B" onClick={() => reopen(edit, finding)}>
                <Undo2 size={12} /> Put back
              </Button>
            )}
            {finding.state === "refused" && (
              <Button className="!px-1.5 !py-0.5 text-xs" onClick={() => void refuse(head.id, [finding], false)}>
                Open again
              </Button>
            )}
          </div>
        </div>
      )}
    </li>
  );
}

const short = (text: string) => (text.length > 90 ? `${text.slice(0, 60).trimEnd()} … ${text.slice(-24).trimStart()}` : text);

/** The takes of a sentence one below the other; the picked one stays. */
function Takes({ finding }: { finding: Finding }) {
  useJudging((state) => state.picks);
  const picked = pickOf(finding);
  return (
    <>
      <ol aria-label="Takes" className="space-y-1">
        {finding.takes.map((take, number) => (
          <TakeCard key={take.begin} finding={finding} number={number} picked={number === picked} />
        ))}
      </ol>
      <Button look="quiet" className="!px-1 !py-0 text-xs" hint="C chooses the next one" onClick={() => desk().set({ panel: "takes" })}>
        <Columns3 size={12} /> Side by side
      </Button>
    </>
  );
}

function TakeCard({ finding, number, picked }: { finding: Finding; number: number; picked: boolean }) {
  const take = finding.takes[number];
  if (!take) return null;
  return (
    <li className={clsx("flex items-start gap-1.5 rounded border px-1.5 py-1", picked ? "border-green bg-green/10" : "border-line")}>
      <input type="radio" name={finding.id} checked={picked} disabled={finding.state === "accepted"} aria-label={`Keep take ${number + 1}`} onChange={() => pickTake(finding, number)} className="mt-1" />
      <span className="min-w-0 flex-1">
        <span className="block font-serif leading-snug">{take.text}</span>
        <span className="text-xs text-soft">{[seconds(take.end - take.begin), ...take.why].join(" · ")}</span>
      </span>
      <Button look="quiet" className="!px-1 !py-0" aria-label={`Hear take ${number + 1}`} onClick={() => player.playBetween(take.begin, take.end)}>
        <Play size={12} />
      </Button>
    </li>
  );
}
