/** What sounds before the first word and after the last: a line of its own, in which a bed's end can be dragged further out. */
import { useQueries } from "@tanstack/react-query";
import { useMemo, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Head, Plan } from "../api/client";
import { peaksQuery } from "../api/queries";
import { RATE } from "../api/time";
import { changed, envelope, waveOf, type Bed, type LaidBed } from "./beds";
import { drag } from "./drag";
import type { Edit } from "./edit";
import { PASSAGE_COLUMNS } from "./layout";
import { levelAt } from "./marks";

export const OUTER = 46;

/** A second is so wide, unless there are too many of them. */
const SECOND = 56;
const STEP = RATE / 2;

interface OuterProps {
  side: "before" | "after";
  head: Head;
  plan: Plan;
  edit: Edit;
}

/** How much sounds there, in ticks. */
export function outside(plan: Plan | undefined, side: OuterProps["side"]): number {
  const [first, last] = [plan?.spans[0], plan?.spans.at(-1)];
  if (!plan || !first || !last || !plan.beds.length) return 0;
  // Crossfades lie within what is said; only beds make the programme longer.
  return side === "before" ? (Math.min(...plan.beds.map((bed) => bed.at)) < first.at ? first.at : 0) : Math.max(0, Math.max(...plan.beds.map((bed) => bed.until)) - last.until);
}

export function Outer({ side, head, plan, edit }: OuterProps) {
  const length = outside(plan, side);
  const begin = side === "before" ? 0 : plan.length - length;
  const names = useMemo(() => [...new Set(head.beds.map((bed) => bed.recording))], [head.beds]);
  const peaks = useQueries({ queries: names.map(peaksQuery), combine: (all) => new Map(all.map((query, index) => [names[index], query.data])) });
  const told = side === "before" ? "before the first word" : "after the last word";
  return (
    <div role="group" aria-label={`Music ${told}`} className={PASSAGE_COLUMNS} style={{ height: OUTER }}>
      <div className="pr-3 text-right text-xs leading-tight text-soft">
        {told}
        <div className="font-mono">{(length / RATE).toFixed(1)} s</div>
      </div>
      <div className="relative mt-1 overflow-hidden">
        {plan.beds.map((laid, index) => {
          const bed = head.beds.find((each) => each.id === laid.id);
          return bed && laid.at < begin + length && laid.until > begin && <Part key={laid.id} {...{ side, bed, laid, begin, length, edit }} peaks={peaks.get(bed.recording)} top={index * 17} />;
        })}
      </div>
    </div>
  );
}

interface PartProps {
  side: OuterProps["side"];
  bed: Bed;
  laid: LaidBed;
  begin: number;
  length: number;
  top: number;
  peaks: Uint8Array | undefined;
  edit: Edit;
}

function Part({ side, bed, laid, begin, length, top, peaks, edit }: PartProps) {
  /** By how much it is being dragged, in ticks. */
  const [by, setBy] = useState(0);
  const scale = Math.min(SECOND / RATE, 640 / Math.max(1, length));
  const from = Math.max(0, laid.at - begin + (side === "before" ? by : 0));
  const to = Math.min(length, laid.until - begin) + (side === "after" ? by : 0);
  const shift = (ticks: number) => {
    const end = side === "before" ? bed.begins : (bed.ends ?? { to: "end" as const, at: null, offset: laid.until - begin });
    if (!end || !ticks) return;
    const moved = { ...end, offset: (end.offset ?? 0) + Math.round(ticks) };
    edit.operate(changed(bed, side === "before" ? { begins: moved } : { ends: moved }));
  };
  const down = (event: PointerEvent) => {
    event.preventDefault();
    event.stopPropagation();
    let ticks = 0;
    drag(event, {
      move: ({ clientX }) => setBy((ticks = (clientX - event.clientX) / scale)),
      drop: (moved) => {
        setBy(0);
        if (moved) shift(ticks);
      },
      cancel: () => setBy(0),
    });
  };
  const key = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    shift(way * STEP);
  };
  const name = side === "before" ? `Beginning of ${bed.name}` : `End of ${bed.name}`;
  const high = envelope(bed, laid);
  const points = high
    .filter(([at]) => at >= begin - length && at <= begin + 2 * length)
    .map(([at, height]) => `${((at - laid.at) * scale).toFixed(1)},${(16 - 16 * height).toFixed(1)}`);
  const width = Math.max(8, (to - from) * scale);
  const heard = waveOf(bed, laid, peaks);
  const starts = begin + from - (side === "before" ? by : 0);
  const loud = heard ? Array.from({ length: Math.floor(width / 2) }, (_, step) => `${2 * step},${(16 - 16 * levelAt(high, starts + (2 * step) / scale) * heard(starts + (2 * step) / scale)).toFixed(1)}`) : [];
  return (
    <div data-look="bed" className="lane-bar" style={{ left: from * scale, top, width }} title={`Music: ${bed.name}`}>
      <svg aria-hidden className="lane-envelope" width={width} height="16">
        <polygon points={`0,16 ${points.join(" ")} ${((laid.until - laid.at) * scale).toFixed(1)},16`} />
        {heard && <polygon className="lane-wave" points={`0,16 ${loud.join(" ")} ${width},16`} />}
      </svg>
      <span className="relative">{bed.name}</span>
      <div role="slider" tabIndex={0} aria-label={name} aria-valuenow={side === "before" ? laid.at : laid.until} aria-valuetext={`${(length / RATE).toFixed(1)} seconds ${side === "before" ? "before the first word" : "after the last word"}`} title="Drag, or press the arrow keys: half a second" className="mark-end" style={{ top: -5, ...(side === "before" ? { left: 2 } : { right: -2 }) }} onPointerDown={down} onKeyDown={key} />
    </div>
  );
}
