import { useVirtualizer } from "@tanstack/react-virtual";
import clsx from "clsx";
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import type { Head, PageWords, Plan, Token, Voice } from "../api/client";
import { RATE } from "../api/time";
import { desk, useDesk } from "../desk/desk";
import { useMay } from "../desk/rights";
import { here, playhead, select, usePlace, watchPlayhead } from "../desk/place";
import { player } from "../player/player";
import { drag } from "./drag";
import type { Edit } from "./edit";
import { byProgramme, byRecordings, edges, ruler, segments, SNAP_PIXELS, snapped, STAVE, TOP, within, type Segment } from "./fine";
import { CutEdge, WordEdge } from "./FineEdges";
import { Waves } from "./FineWaves";
import { Lanes, Margin, Sign, Washes } from "./Lanes";
import type { Layout } from "./layout";
import { between, roomOf, type PageMark, type Strengths } from "./marks";
import { useReading } from "./reading";
import type { Source, Stave } from "./sources";
import { covered, indexAt, selected, type Tokens } from "./tokens";

interface FineProps {
  page: PageWords;
  head: Head;
  plan: Plan | undefined;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  /** All marks of the page, in order, and how much their lanes matter now. */
  marks: readonly PageMark[];
  strengths: Strengths;
  edit: Edit;
  register: (reveal: (laid: number) => void) => void;
}

/** Pixels beside the lines, for brackets and notes. */
const MARGIN = 44;
/** From the top of a word to that of the lane above the ruler. */
const ABOVE = 36;
/** Where words stand on a line, and how tall they are. */
const WORD = { top: 18, height: 24 };

/** The page with its sound stretched out: lines of some seconds, with edges to be dragged. */
export function Fine(props: FineProps) {
  const { page, head, tokens, sources, marks, strengths, register } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const scale = useDesk((state) => state.scale);
  const length = scale * RATE;
  const count = Math.max(1, Math.ceil(page.length / length));
  const staves = useMemo(() => Math.max(1, ...[...sources.values()].map((source) => source.staves.length)), [sources]);
  const above = roomOf("above", marks, strengths);
  const tall = above + TOP + staves * STAVE + 16 + roomOf("below", marks, strengths);
  const [width, setWidth] = useState(740);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(Math.round((entry?.contentRect.width ?? 800) - MARGIN)));
    if (scroller.current) watch.observe(scroller.current);
    return () => watch.disconnect();
  }, []);
  // eslint-disable-next-line react-hooks/incompatible-library -- nothing is compiled here, so nothing can go stale
  const lines = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => tall,
    getItemKey: (index) => `${index}-${scale}-${tall}`,
    overscan: 2,
  });
  const reveal = useCallback(
    (laid: number) => {
      const index = Math.min(count - 1, Math.floor(laid / length));
      const box = scroller.current;
      if (box && (index * tall < box.scrollTop || (index + 1) * tall > box.scrollTop + box.clientHeight)) lines.scrollToIndex(index, { align: "center" });
    },
    [count, length, lines, tall],
  );
  useEffect(() => register(reveal), [register, reveal]);
  // Where one was in the other magnification, one is here, too.
  useEffect(() => {
    reveal(here().selection?.anchor ?? playhead());
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [scale]);
  useReading(scroller, tokens, reveal);
  return (
    <div ref={scroller} role="application" aria-label="Transcript" aria-roledescription="stretched sound" tabIndex={0} className="page fine h-full overflow-x-hidden overflow-y-auto px-2.5 pt-2 pb-24">
      <div className="relative" style={{ height: lines.getTotalSize() }}>
        {lines.getVirtualItems().map((item) => {
          const begin = item.index * length;
          return (
            <div key={item.key} className="absolute inset-x-0 top-0" style={{ transform: `translateY(${item.start + above}px)`, height: item.size - above }}>
              <FineLine {...props} begin={begin} end={Math.min(page.length, begin + length)} perTick={width / length} width={width} staves={staves} head={head} tokens={tokens} />
            </div>
          );
        })}
      </div>
    </div>
  );
}

interface LineProps extends FineProps {
  begin: number;
  end: number;
  /** Pixels for each tick. */
  perTick: number;
  width: number;
  staves: number;
}

function FineLine({ page, head, plan, tokens, sources, voices, marks, strengths, edit, begin, end, perTick, width, staves }: LineProps) {
  const box = useRef<HTMLDivElement>(null);
  const edits = useMay("edit");
  const parts = useMemo(() => segments(page, tokens, sources, begin, end), [page, tokens, sources, begin, end]);
  const selection = usePlace((state) => state.selection);
  const picked = selected(tokens.list, selection);
  const cuts = useMemo(() => edges(head, begin, end), [head, begin, end]);
  const out = within(head.struck, begin, end);
  const words = useMemo(() => {
    const found: Token[] = [];
    for (let i = indexAt(tokens.list, begin); i < tokens.list.length && (tokens.list[i]?.at ?? end) < end; i++) {
      const token = tokens.list[i];
      if (token && token.at + token.len > begin) found.push(token);
    }
    return found;
  }, [tokens, begin, end]);
  const x = (laid: number) => (laid - begin) * perTick;
  const recorded = useDesk((state) => state.recordingTimes);
  const clocks = useMemo(() => (recorded || !plan ? byRecordings(parts) : byProgramme(plan, begin, end)), [recorded, plan, parts, begin, end]);
  const layout = useMemo((): Layout => {
    const at = (laid: number) => (Math.min(end, Math.max(begin, laid)) - begin) * perTick;
    const boxes = words.map((token) => ({ at: token.at, len: token.len, left: at(token.at), width: at(token.at + token.len) - at(token.at), ...WORD }));
    return { boxes, width, height: TOP };
  }, [words, begin, end, perTick, width]);
  // A splice has its handles here.
  const mine = useMemo(() => between(marks, begin, end).filter((mark) => mark.lane !== "between" || mark.text), [marks, begin, end]);
  const laidAt = (event: { clientX: number }) => {
    const left = box.current?.getBoundingClientRect().left ?? 0;
    return Math.round(Math.max(0, Math.min(page.length, begin + (event.clientX - left) / perTick)));
  };
  const staveAt = (event: { clientY: number }): Stave | undefined => {
    const top = box.current?.getBoundingClientRect().top ?? 0;
    const index = Math.floor((event.clientY - top - TOP) / STAVE);
    const here = parts[0]?.source?.staves ?? [];
    return here.length > 1 ? here[index] : undefined;
  };
  const drawn = { marks: mine, layout, strengths, above: ABOVE, laidAt };
  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0 || (event.target instanceof Element && event.target.closest("[role=slider], button"))) return;
    const before = here().selection;
    const at = laidAt(event);
    const track = staveAt(event)?.recording;
    const begun = event.shiftKey && before ? { ...before, focus: at, exact: true } : { anchor: at, focus: at, exact: true, ...(track ? { track } : {}) };
    select(begun);
    if (!event.shiftKey) player.seek(at);
    drag(event, {
      move: (point) => {
        const laid = laidAt(point);
        select({ ...begun, focus: desk().snapping && !point.ctrlKey ? snapped(laid, SNAP_PIXELS / perTick, tokens.list, []) : laid });
      },
      drop: () => {
        const known = here().selection;
        if (known?.exact && Math.abs(known.anchor - known.focus) * perTick < 3) select(null);
      },
      cancel: () => select(before),
    });
  };
  return (
    <div ref={box} className="relative h-full" style={{ width }} onPointerDown={down}>
      <Washes {...drawn} />
      <Lanes {...drawn} />
      {mine.map((mark) => mark.text && mark.lane === "between" && (
        <div key={mark.id} className="absolute z-[6]" style={{ left: x(Math.max(begin, mark.begin)), top: -8 }}>
          <Sign mark={mark} />
        </div>
      ))}
      <div className="absolute top-0" style={{ left: width }}>
        <Margin {...drawn} />
      </div>
      {ruler(clocks, begin, end).map(({ at, label }) => (
        <span key={at} className="absolute top-0 border-l border-line pl-1 font-mono text-xs leading-[16px] text-soft" style={{ left: x(at), height: label ? 16 : 7 }}>
          {label}
        </span>
      ))}
      {words.map((token) =>
        token.k === "w" ? (
          <span
            key={token.at}
            data-token
            data-at={token.at}
            className={clsx("word", covered(head.struck, token.at, token.at + token.len) > token.len / 2 && "struck", token.p < 0.5 && "unsure")}
            style={{ left: Math.max(0, x(token.at)), width: x(Math.min(end, token.at + token.len)) - Math.max(0, x(token.at)) }}
          >
            {token.text}
          </span>
        ) : null,
      )}
      {picked && picked[0] < end && picked[1] > begin && (
        <div
          aria-hidden
          className="absolute bg-pick"
          style={{ left: Math.max(0, x(picked[0])), width: x(Math.min(end, picked[1])) - Math.max(0, x(picked[0])), ...pickedRows(selection?.track, parts, staves) }}
        />
      )}
      <Waves page={page} parts={parts} head={head} voices={voices} begin={begin} perTick={perTick} width={width} staves={staves} />
      {out.map(([from = 0, to = 0]) => (
        <div key={from} aria-hidden className="hatched pointer-events-none absolute" style={{ left: Math.max(0, x(from)), width: x(Math.min(end, to)) - Math.max(0, x(from)), top: TOP, height: staves * STAVE }} />
      ))}
      {edits && words.filter((token) => token.k === "w" && token.at + token.len <= end).map((token) => (
        <WordEdge key={token.at} token={token} x={x(token.at + token.len)} perTick={perTick} edit={edit} />
      ))}
      {/* By their order: one that is nudged stays the same, and keeps the focus. */}
      {edits && cuts.map((edge, index) => (
        <CutEdge key={index} edge={edge} x={x(edge.at) + (edge.side === "after" ? 2 : -2)} perTick={perTick} head={head} tokens={tokens} parts={parts} edit={edit} />
      ))}
      <Playhead begin={begin} end={end} perTick={perTick} height={TOP + staves * STAVE} />
    </div>
  );
}

/** The selection covers all staves, or the one that is meant. */
function pickedRows(track: string | undefined, parts: readonly Segment[], staves: number) {
  const index = track ? (parts[0]?.source?.staves.findIndex((stave) => stave.recording === track) ?? -1) : -1;
  return index < 0 ? { top: TOP, height: staves * STAVE } : { top: TOP + index * STAVE, height: STAVE };
}

function Playhead({ begin, end, perTick, height }: { begin: number; end: number; perTick: number; height: number }) {
  const line = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const place = (laid: number) => {
      if (!line.current) return;
      line.current.style.display = laid >= begin && laid < end ? "" : "none";
      line.current.style.transform = `translateX(${(laid - begin) * perTick}px)`;
    };
    return watchPlayhead(place);
  }, [begin, end, perTick]);
  return <div ref={line} aria-hidden className="pointer-events-none absolute top-0 left-0 z-[7] w-[1.5px] bg-ink" style={{ height }} />;
}
