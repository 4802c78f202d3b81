/** Edges on a line of Fine that are dragged, or moved by the arrow keys: of what is taken out, and of words. */
import { useQueries } from "@tanstack/react-query";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Head, Token } from "../api/client";
import { peaksQuery } from "../api/queries";
import { clock, RATE } from "../api/time";
import { desk } from "../desk/desk";
import { player } from "../player/player";
import { drag } from "./drag";
import type { Edit } from "./edit";
import { quietPlaces, SNAP_PIXELS, snapped, TOP, type Edge, type Segment } from "./fine";
import { useTimeAt } from "./times";
import type { Tokens } from "./tokens";

/** One step of the arrow keys on an edge; with Shift it is a frame of 25 a second. */
const NUDGE = RATE / 100;
const FRAME = RATE / 25;

interface OnLine {
  /** Pixels from the left of the line. */
  x: number;
  /** Pixels for each tick. */
  perTick: number;
  edit: Edit;
}

interface GripProps extends Omit<OnLine, "edit"> {
  name: string;
  title: string;
  look: "handle" | "edge";
  at: number;
  range: readonly [number, number];
  said: string;
  splice?: number | undefined;
  /** Where it goes to when the pointer means a laid time. */
  place?: (laid: number) => number;
  /** It was moved by so much; `both` with Alt. */
  moved: (by: number, both: boolean) => unknown;
}

function Grip({ name, title, look, at, range, said, splice, x, perTick, place, moved }: GripProps) {
  const [to, setTo] = useState<number | null>(null);
  const move = (by: number, both: boolean) => by && moved(by, both);
  const down = (event: PointerEvent<HTMLElement>) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    event.preventDefault();
    event.currentTarget.focus();
    const begun = event.clientX;
    let now = at;
    drag(event, {
      move: ({ clientX, ctrlKey }) => {
        const laid = at + (clientX - begun) / perTick;
        now = Math.round(place && desk().snapping && !ctrlKey ? place(laid) : laid);
        setTo(now);
      },
      drop: (_, { altKey }) => {
        setTo(null);
        move(now - at, altKey);
      },
      cancel: () => setTo(null),
    });
  };
  const nudge = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    move(way * (event.shiftKey ? FRAME : NUDGE), event.altKey);
  };
  return (
    <>
      <div role="slider" tabIndex={look === "handle" ? 0 : -1} aria-label={name} aria-valuemin={range[0]} aria-valuemax={range[1]} aria-valuenow={at} aria-valuetext={said} data-splice={splice} title={title} className={look} style={{ left: x }} onPointerDown={down} onKeyDown={nudge} />
      {to !== null && to !== at && (
        <div aria-hidden className="pointer-events-none absolute z-[8] border-l-2 border-blue" style={{ left: x + (to - at) * perTick, top: TOP, bottom: 8 }}>
          <span className="absolute -top-5 left-1 rounded bg-ink px-1 font-mono text-xs whitespace-nowrap text-paper">{Math.round(((to - at) / RATE) * 1000)} ms</span>
        </div>
      )}
    </>
  );
}

interface CutEdgeProps extends OnLine {
  edge: Edge;
  head: Head;
  tokens: Tokens;
  parts: readonly Segment[];
}

/** One edge of what is taken out. With Alt both edges of its splice go along. */
export function CutEdge({ edge, x, perTick, head, tokens, parts, edit }: CutEdgeProps) {
  const said = clock(useTimeAt()(edge.at), 2);
  const part = parts.find((each) => each.at <= edge.at && edge.at <= each.end);
  const peaks = useQueries({ queries: part?.source?.staves.slice(0, 1).map((stave) => peaksQuery(stave.recording)) ?? [], combine: (all) => all[0]?.data });
  const reach = SNAP_PIXELS / perTick;
  const moved = (by: number, both: boolean) => {
    const hear = (after: Head) => hearEdge(after, edge, by);
    if (edge.splice !== null) {
      const before = both || edge.side === "before" ? by : 0;
      const after = both || edge.side === "after" ? by : 0;
      return edit.operate({ kind: "trim", at: edge.splice, before, after }, hear);
    }
    const range = { begin: Math.min(edge.at, edge.at + by), end: Math.max(edge.at, edge.at + by) };
    const back = (edge.side === "before") === by > 0;
    return edit.operate(back ? { kind: "put back", ranges: [range] } : { kind: "strike", ranges: [range], why: "trimmed", settle: false }, hear);
  };
  return (
    <Grip
      look="handle"
      name={`${edge.side === "before" ? "End before" : "Beginning after"} the cut at ${said}`}
      title="Drag, or arrow keys: 10 ms, with Shift a frame. With Alt both edges of the splice."
      at={edge.at}
      range={[0, head.recorded_time]}
      said={said}
      splice={edge.splice ?? undefined}
      x={x}
      perTick={perTick}
      place={(laid) => snapped(laid, reach, tokens.list, quietPlaces(peaks, part, laid, reach))}
      moved={moved}
    />
  );
}

/** What was done is heard at once. */
function hearEdge(after: Head, edge: Edge, by: number) {
  const at = edge.at + by;
  const near = after.splices.reduce((best, each) => (Math.abs(each - at) < Math.abs(best - at) ? each : best), at);
  // The plan of the new revision comes a moment later.
  player.whenReady(after.revision, () => player.playAround(edge.splice === null ? at : near, RATE));
}

interface WordEdgeProps extends OnLine {
  token: Token;
}

/** The end of a word, for where alignment was wrong. */
export function WordEdge({ token, x, perTick, edit }: WordEdgeProps) {
  const end = token.at + token.len;
  const moved = (by: number) => edit.operate({ kind: "edges", at: token.at, begin: token.at, end: end + by }, () => player.playBetween(token.at - RATE / 2, end + by + RATE / 2));
  return (
    <Grip
      look="edge"
      name={`End of the word ${token.text}`}
      title={`Where “${token.text}” ends`}
      at={end}
      range={[token.at, end + RATE]}
      said={clock(useTimeAt()(end), 2)}
      x={x}
      perTick={perTick}
      moved={moved}
    />
  );
}
