import { useQueries } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import clsx from "clsx";
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Head, PageWords, Plan, Token, Voice } from "../api/client";
import { peaksQuery, waveQuery } from "../api/queries";
import { clock, RATE } from "../api/time";
import { desk, useDesk } from "../desk/desk";
import { here, playhead, select, usePlace, watchPlayhead } from "../desk/place";
import { useShallow } from "zustand/react/shallow";
import { player } from "../player/player";
import { Choice } from "../ui/controls";
import { Tick } from "../ui/fields";
import { heightAt, ink } from "./draw";
import type { Edit } from "./edit";
import { byProgramme, byRecordings, edges, quietPlaces, ruler, segments, snapped, within, type Edge, type Segment } from "./fine";
import { Lanes, Margin, Sign, Washes } from "./Lanes";
import type { Layout } from "./layout";
import { between, roomOf, type PageMark, type Strengths } from "./marks";
import { useReading } from "./reading";
import { inkOf, sounds, toRecording, type Source, type Stave } from "./sources";
import { useTimeAt } from "./times";
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

const TOP = 42;
const STAVE = 58;
/** Pixels beside the lines, for brackets and notes. */
const MARGIN = 44;
const SNAP_PIXELS = 8;
/** From the top of a word to that of the lane above the ruler. */
const ABOVE = 36;
/** Where words stand on a line, and how tall they are. */
const WORD = { top: 18, height: 24 };
/** One step of the arrow keys on an edge; with Shift it is a frame of 25 a second. */
const NUDGE = RATE / 100;
const FRAME = RATE / 25;

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
  const dragging = useRef(false);
  const down = (event: PointerEvent<HTMLDivElement>) => {
    if (event.button !== 0 || (event.target instanceof Element && event.target.closest("[role=slider], button"))) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    dragging.current = true;
    const at = laidAt(event);
    const track = staveAt(event)?.recording;
    const known = here().selection;
    if (event.shiftKey && known) return select({ ...known, focus: at, exact: true });
    select({ anchor: at, focus: at, exact: true, ...(track ? { track } : {}) });
    player.seek(at);
  };
  const move = (event: PointerEvent) => {
    const known = here().selection;
    if (!dragging.current || !known || event.buttons === 0) return;
    const at = laidAt(event);
    select({ ...known, focus: desk().snapping && !event.ctrlKey ? snapped(at, SNAP_PIXELS / perTick, tokens.list, []) : at });
  };
  const up = () => {
    dragging.current = false;
    const known = here().selection;
    if (known?.exact && Math.abs(known.anchor - known.focus) * perTick < 3) select(null);
  };
  return (
    <div ref={box} className="relative h-full" style={{ width }} onPointerDown={down} onPointerMove={move} onPointerUp={up}>
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
      {words.filter((token) => token.k === "w" && token.at + token.len <= end).map((token) => (
        <WordEdge key={token.at} token={token} x={x(token.at + token.len)} laidAt={laidAt} perTick={perTick} edit={edit} />
      ))}
      {/* By their order: one that is nudged stays the same, and keeps the focus. */}
      {cuts.map((edge, index) => (
        <Handle key={index} edge={edge} x={x(edge.at) + (edge.side === "after" ? 2 : -2)} laidAt={laidAt} perTick={perTick} head={head} tokens={tokens} parts={parts} edit={edit} />
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

interface WavesProps {
  page: PageWords;
  parts: readonly Segment[];
  head: Head;
  voices: ReadonlyMap<string, Voice>;
  begin: number;
  perTick: number;
  width: number;
  staves: number;
}

/** Whose passage lies at a laid time. */
function voiceAt(passages: PageWords["passages"], laid: number) {
  let [first, last] = [0, passages.length - 1];
  while (first < last) {
    const middle = (first + last + 1) >> 1;
    if ((passages[middle]?.tokens[0]?.at ?? 0) <= laid) first = middle;
    else last = middle - 1;
  }
  return passages[first]?.voice;
}

/** The sound of a line, a stave for each voice. */
function Waves({ page, parts, head, voices, begin, perTick, width, staves }: WavesProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const wanted = useMemo(
    () =>
      parts.flatMap((part) =>
        part.start < 0 || !part.source
          ? []
          : part.source.staves.map((stave, row) => {
              const from = Math.max(0, Math.round(toRecording(stave, part.start)));
              const to = Math.max(from + 1, Math.round(toRecording(stave, part.start + part.end - part.at)));
              const silentBefore = Math.max(0, -toRecording(stave, part.start));
              const left = (part.at - begin + silentBefore) * perTick;
              const points = Math.max(1, Math.min(4000, Math.round(to > from ? (part.end - part.at - silentBefore) * perTick : 1)));
              return { part, stave, row, from, to, left, points };
            }),
      ),
    [parts, begin, perTick],
  );
  const waves = useQueries({
    queries: wanted.map(({ stave, from, to, points }) => waveQuery(stave.recording, from, to, points)),
    combine: (all) => all.map((query) => query.data),
  });
  const known = waves.map((wave) => wave?.length ?? 0).join();
  useEffect(() => {
    const surface = canvas.current;
    const paint = surface?.getContext("2d");
    if (!surface || !paint) return;
    const density = Math.min(2, window.devicePixelRatio || 1);
    surface.width = width * density;
    surface.height = staves * STAVE * density;
    paint.scale(density, density);
    for (const [index, { part, stave, row, left, points }] of wanted.entries()) {
      const wave = waves[index];
      const middle = row * STAVE + STAVE / 2;
      paint.fillStyle = ink(inkOf(voices.get(stave.voice ?? "")));
      paint.globalAlpha = 0.25;
      paint.fillRect(left, middle - 0.5, points, 1);
      paint.globalAlpha = 1;
      for (let i = 0; wave && i < points; i++) {
        if (!sounds(stave, voiceAt(page.passages, begin + (left + i) / perTick))) continue;
        const tall = heightAt(head.levels, stave.recording, part.start + i / perTick) * (STAVE / 2 - 3);
        const least = ((wave[2 * i] ?? 0) / 127) * tall;
        const most = ((wave[2 * i + 1] ?? 0) / 127) * tall;
        paint.fillRect(left + i, middle - most, 1, Math.max(0.8, most - least));
      }
    }
    // `known` stands for the waves themselves, which are a new list at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [page, wanted, known, head.levels, width, staves, voices, begin, perTick]);
  return <canvas ref={canvas} aria-hidden className="pointer-events-none absolute left-0" style={{ top: TOP, width, height: staves * STAVE }} />;
}

interface HandleProps {
  edge: Edge;
  x: number;
  laidAt: (event: { clientX: number }) => number;
  perTick: number;
  head: Head;
  tokens: Tokens;
  parts: readonly Segment[];
  edit: Edit;
}

/** One edge of what is taken out: dragged, or moved by the arrow keys. With Alt both edges of its splice go along. */
function Handle({ edge, x, laidAt, perTick, head, tokens, parts, edit }: HandleProps) {
  const [to, setTo] = useState<number | null>(null);
  const timeAt = useTimeAt();
  const part = parts.find((each) => each.at <= edge.at && edge.at <= each.end);
  const peaks = useQueries({ queries: part?.source?.staves.slice(0, 1).map((stave) => peaksQuery(stave.recording)) ?? [], combine: (all) => all[0]?.data });
  const shift = (by: number, both: boolean) => {
    if (!by) return;
    const hear = (after: Head) => hearEdge(after, edge, by);
    if (edge.splice !== null) {
      const before = both || edge.side === "before" ? by : 0;
      const after = both || edge.side === "after" ? by : 0;
      return edit.operate({ kind: "trim", at: edge.splice, before, after }, hear);
    }
    const range = { begin: Math.min(edge.at, edge.at + by), end: Math.max(edge.at, edge.at + by) };
    const back = (edge.side === "before") === by > 0;
    edit.operate(back ? { kind: "put back", ranges: [range] } : { kind: "strike", ranges: [range], why: "trimmed", settle: false }, hear);
  };
  const place = (event: PointerEvent) => {
    const at = laidAt(event);
    const reach = SNAP_PIXELS / perTick;
    return desk().snapping && !event.ctrlKey ? snapped(at, reach, tokens.list, quietPlaces(peaks, part, at, reach)) : at;
  };
  const nudge = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    shift(way * (event.shiftKey ? FRAME : NUDGE), event.altKey);
  };
  return (
    <>
      <div
        role="slider"
        tabIndex={0}
        aria-label={`${edge.side === "before" ? "End before" : "Beginning after"} the cut at ${clock(timeAt(edge.at), 2)}`}
        aria-valuemin={0}
        aria-valuemax={head.recorded_time}
        aria-valuenow={edge.at}
        aria-valuetext={clock(timeAt(edge.at), 2)}
        data-splice={edge.splice ?? undefined}
        title="Drag, or arrow keys: 10 ms, with Shift a frame. With Alt both edges of the splice."
        className="handle"
        style={{ left: x }}
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          event.currentTarget.focus();
          setTo(edge.at);
        }}
        onPointerMove={(event) => to !== null && setTo(place(event))}
        onPointerUp={(event) => {
          if (to === null) return;
          setTo(null);
          shift(Math.round(place(event)) - edge.at, event.altKey);
        }}
        onKeyDown={nudge}
      />
      {to !== null && to !== edge.at && (
        <div aria-hidden className="pointer-events-none absolute z-[8] border-l-2 border-blue" style={{ left: x + (to - edge.at) * perTick, top: TOP, bottom: 8 }}>
          <span className="absolute -top-5 left-1 rounded bg-ink px-1 font-mono text-xs whitespace-nowrap text-paper">{Math.round(((to - edge.at) / RATE) * 1000)} ms</span>
        </div>
      )}
    </>
  );
}

/** What was done is heard at once. */
function hearEdge(after: Head, edge: Edge, by: number) {
  const at = edge.at + by;
  const near = after.splices.reduce((best, each) => (Math.abs(each - at) < Math.abs(best - at) ? each : best), at);
  // The plan of the new revision comes a moment later.
  player.whenReady(after.revision, () => player.playAround(edge.splice === null ? at : near, RATE));
}

/** The end of a word, for where alignment was wrong. */
function WordEdge({ token, x, laidAt, perTick, edit }: { token: Token; x: number; laidAt: (event: { clientX: number }) => number; perTick: number; edit: Edit }) {
  const [to, setTo] = useState<number | null>(null);
  const end = token.at + token.len;
  const set = (until: number) => until !== end && edit.operate({ kind: "edges", at: token.at, begin: token.at, end: Math.round(until) }, () => player.playBetween(token.at - RATE / 2, until + RATE / 2));
  return (
    <>
      <div
        role="slider"
        tabIndex={-1}
        aria-label={`End of the word ${token.text}`}
        aria-valuemin={token.at}
        aria-valuemax={end + RATE}
        aria-valuenow={end}
        className="edge"
        title={`Where “${token.text}” ends`}
        style={{ left: x }}
        onPointerDown={(event) => {
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          setTo(end);
        }}
        onPointerMove={(event) => to !== null && setTo(laidAt(event))}
        onPointerUp={(event) => {
          if (to === null) return;
          setTo(null);
          set(laidAt(event));
        }}
        onKeyDown={(event) => {
          const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
          if (!way) return;
          event.preventDefault();
          event.stopPropagation();
          set(end + way * NUDGE);
        }}
      />
      {to !== null && <div aria-hidden className="pointer-events-none absolute top-[18px] z-[8] h-6 border-l-2 border-blue" style={{ left: x + (to - end) * perTick }} />}
    </>
  );
}

/** How much is shown on a line, and whether edges snap. */
export function FineControls() {
  const { scale, snapping, set } = useDesk(useShallow(({ scale, snapping, set }) => ({ scale, snapping, set })));
  return (
    <>
      <Choice
        label="Seconds on a line"
        value={String(scale)}
        options={[
          ["1.5", "1.5 s"],
          ["3", "3 s"],
          ["6", "6 s"],
          ["12", "12 s"],
          ["24", "24 s"],
        ]}
        onChange={(next) => set({ scale: Number(next) })}
      />
      <label className="flex items-center gap-1" title="Edges stop at words and quiet places (Shift+S; Ctrl while dragging: not)">
        <Tick checked={snapping} onChange={(checked) => set({ snapping: checked })} /> snap
      </label>
    </>
  );
}
