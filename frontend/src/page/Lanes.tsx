/** Draws the marks of a passage, or of a line of Fine, by the one layout of its words. */
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import { select } from "../desk/place";
import { drag } from "./drag";
import { besideLines, boxAt, pieces, type Layout, type Piece } from "./layout";
import { levelAt, ROOM, type PageMark, type Strengths } from "./marks";

interface LanesProps {
  marks: readonly PageMark[];
  layout: Layout;
  strengths: Strengths;
  /** Pixels from the top of a word to the top of the lane above it. */
  above: number;
  /** The laid time of the token at a point of the window. */
  laidAt: (point: { clientX: number; clientY: number }) => number | null;
}

const choose = (mark: PageMark) => (event: PointerEvent) => {
  event.stopPropagation();
  if (mark.selects) select(mark.selects);
};

/** Washes, which stand behind the words. */
export function Washes({ marks, layout, strengths, laidAt }: LanesProps) {
  if (strengths.over === "hidden") return null;
  return marks.filter((mark) => mark.lane === "over").map((mark) => <Wash key={mark.id} {...{ mark, layout, laidAt }} faint={strengths.over === "faint"} />);
}

interface WashProps extends Pick<LanesProps, "layout" | "laidAt"> {
  mark: PageMark;
  faint: boolean;
}

function Wash({ mark, layout, faint, laidAt }: WashProps) {
  /** Where it is being dragged to. */
  const [to, setTo] = useState<readonly [number, number] | null>(null);
  const [begin, end] = to ?? [mark.begin, mark.end];
  const found = pieces(layout, begin, end);
  const { resize } = mark;
  const first = found[0];
  const last = found.at(-1);
  return (
    <>
      {found.map(({ left, right, top, begin: at }) => (
        <div key={at} aria-hidden title={mark.label} data-look={mark.look} data-colour={mark.colour} data-faint={faint || undefined} className="wash" style={{ left, top, width: right - left }} />
      ))}
      {resize && first && last && !faint && (
        <>
          <End side="begin" name={`Beginning: ${mark.label}`} x={first.left} y={first.top} value={begin} layout={layout} laidAt={laidAt} go={(laid) => laid.begin < end && setTo([laid.begin, end])} give={(laid) => laid.begin < end && resize(laid.begin, end)} back={() => setTo(null)} />
          <End side="end" name={`End: ${mark.label}`} x={last.right} y={last.top} value={end} layout={layout} laidAt={laidAt} go={(laid) => laid.end > begin && setTo([begin, laid.end])} give={(laid) => laid.end > begin && resize(begin, laid.end)} back={() => setTo(null)} />
        </>
      )}
    </>
  );
}

interface Word {
  begin: number;
  end: number;
}

interface EndProps extends Pick<LanesProps, "layout" | "laidAt"> {
  side: "begin" | "end";
  name: string;
  x: number;
  y: number;
  value: number;
  go: (word: Word) => void;
  give: (word: Word) => Promise<unknown> | false;
  back: () => void;
}

/** One end of a mark: dragged from word to word, or moved by the arrow keys. */
function End({ side, name, x, y, value, layout, laidAt, go, give, back }: EndProps) {
  const wordAt = (laid: number | null): Word | null => {
    const box = laid === null ? undefined : boxAt(layout, laid);
    return box ? { begin: box.at, end: box.at + box.len } : null;
  };
  const down = (event: PointerEvent) => {
    event.stopPropagation();
    event.preventDefault();
    let word: Word | null = null;
    drag(event, {
      scroller: event.currentTarget.closest<HTMLElement>(".page"),
      move: (point) => {
        word = wordAt(laidAt(point)) ?? word;
        if (word) go(word);
      },
      drop: (moved) => {
        // It stays where it was dropped until that is stored and read again.
        void Promise.resolve(moved && word && give(word)).finally(back);
      },
      cancel: back,
    });
  };
  const nudge = (event: KeyboardEvent) => {
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    const index = layout.boxes.findIndex((box) => (side === "begin" ? box.at : box.at + box.len) === value);
    const next = index < 0 ? undefined : layout.boxes[index + way];
    if (next) void give({ begin: next.at, end: next.at + next.len });
  };
  return <div role="slider" tabIndex={0} aria-label={name} aria-valuenow={value} aria-valuetext={name} title="Drag to another word; arrow keys move it" className="mark-end" style={{ left: x, top: y }} onPointerDown={down} onKeyDown={nudge} />;
}

interface BarProps extends Pick<LanesProps, "layout" | "above" | "laidAt"> {
  mark: PageMark;
  found: readonly Piece[];
  faint: true | undefined;
}

/** A bar above or below its words, on each line they stand on; its ends are dragged from word to word. */
function Bar({ mark, found, layout, above, laidAt, faint }: BarProps) {
  const [to, setTo] = useState<readonly [number, number] | null>(null);
  const [begin, end] = to ?? [mark.begin, mark.end];
  const shown = to ? pieces(layout, begin, end) : found;
  const topOf = ({ top, height }: Piece) => (mark.lane === "above" ? top - above : top + height) + (mark.row ?? 0) * ROOM;
  const { resize, begins } = mark;
  const [first, last] = [shown[0], shown.at(-1)];
  // Only where a bar really begins or ends in this passage there is an end to drag.
  const [from, until] = [layout.boxes[0]?.at ?? 0, (layout.boxes.at(-1)?.at ?? 0) + (layout.boxes.at(-1)?.len ?? 0)];
  return (
    <>
      {shown.map((piece, index) => (
        <div key={piece.begin} role="note" aria-label={index ? undefined : mark.label} aria-hidden={index > 0 || undefined} title={mark.label} data-look={mark.look} data-colour={mark.colour} data-faint={faint} className="lane-bar" style={{ ...(mark.ink && { "--mark": `var(${mark.ink})` }), left: piece.left, top: topOf(piece), width: piece.right - piece.left - 1 }}>
          {mark.envelope && <Envelope points={mark.envelope} wave={mark.wave} {...{ piece, layout }} />}
          {index === 0 && mark.picture && <img src={mark.picture} alt="" />}
          {index === 0 && <span className="relative">{mark.text}</span>}
        </div>
      ))}
      {begins && first && <End side="begin" name={`Beginning: ${mark.label}`} x={first.left} y={topOf(first) - 5} value={begin} layout={layout} laidAt={laidAt} go={(laid) => setTo([laid.begin, laid.end])} give={(laid) => begins(laid.begin)} back={() => setTo(null)} />}
      {resize && first && begin >= from && <End side="begin" name={`Beginning: ${mark.label}`} x={first.left} y={topOf(first) - 5} value={begin} layout={layout} laidAt={laidAt} go={(laid) => laid.begin < end && setTo([laid.begin, end])} give={(laid) => laid.begin < end && resize(laid.begin, mark.end)} back={() => setTo(null)} />}
      {resize && last && end <= until && <End side="end" name={`End: ${mark.label}`} x={last.right} y={topOf(last) - 5} value={end} layout={layout} laidAt={laidAt} go={(laid) => laid.end > begin && setTo([begin, laid.end])} give={(laid) => laid.end > begin && resize(mark.begin, laid.end)} back={() => setTo(null)} />}
    </>
  );
}

/** How the level of a bar moves, under the words of one line. */
function Envelope({ points, wave, piece, layout }: { points: NonNullable<PageMark["envelope"]>; wave: PageMark["wave"]; piece: Piece; layout: Layout }) {
  const width = piece.right - piece.left - 1;
  const level: string[] = [];
  const loud: string[] = [];
  for (const box of layout.boxes) {
    if (box.at < piece.begin || box.at >= piece.end) continue;
    for (let x = 0; x < box.width; x += 3) {
      const laid = box.at + (x / box.width) * box.len;
      const high = levelAt(points, laid);
      const left = (box.left - piece.left + x).toFixed(1);
      level.push(`${left},${(16 - 16 * high).toFixed(1)}`);
      if (wave) loud.push(`${left},${(16 - 16 * high * wave(laid)).toFixed(1)}`);
    }
  }
  return (
    <svg aria-hidden className="lane-envelope" width={width} height="16">
      <polygon points={`0,16 ${level.join(" ")} ${width},16`} />
      {wave && <polygon className="lane-wave" points={`0,16 ${loud.join(" ")} ${width},16`} />}
    </svg>
  );
}

/** A bar between two words; one that can be moved is dragged before another word. */
function Between({ mark, layout, laidAt }: Pick<LanesProps, "layout" | "laidAt"> & { mark: PageMark }) {
  const [to, setTo] = useState<number | null>(null);
  const box = boxAt(layout, to ?? mark.begin);
  if (box?.at !== (to ?? mark.begin)) return null;
  const { move } = mark;
  const down = (event: PointerEvent) => {
    event.stopPropagation();
    event.preventDefault();
    let at: number | null = null;
    drag(event, {
      scroller: event.currentTarget.closest<HTMLElement>(".page"),
      move: (point) => {
        const laid = laidAt(point);
        at = laid === null ? at : (boxAt(layout, laid)?.at ?? at);
        if (at !== null) setTo(at);
      },
      // It stays where it was dropped until that is stored and read again.
      drop: (moved) => void Promise.resolve(moved && at !== null && at !== mark.begin && move?.(at)).finally(() => setTo(null)),
      cancel: () => setTo(null),
    });
  };
  return <div aria-hidden title={mark.label} data-look={mark.look} data-at={mark.begin} data-splice={mark.look === "splice" ? mark.begin : undefined} data-movable={move ? true : undefined} className="lane-between" style={{ left: box.left, top: box.top, height: box.height }} onPointerDown={move && down} />;
}

/** What stands above, between and below the words, and brackets beside them. */
export function Lanes({ marks, layout, strengths, above, laidAt }: LanesProps) {
  const margin = marks.filter((mark) => mark.lane === "margin" && !mark.drawn);
  return marks.map((mark) => {
    const strength = strengths[mark.lane];
    if (strength === "hidden" || mark.drawn) return null;
    const found = pieces(layout, mark.begin, mark.end);
    const faint = strength === "faint" || undefined;
    const [first, last] = [found[0], found.at(-1)];
    switch (mark.lane) {
      case "above":
      case "below":
        return <Bar key={mark.id} {...{ mark, found, layout, above, laidAt, faint }} />;
      case "between": {
        if (mark.text) return null; // a symbol stands in the line
        return <Between key={mark.id} {...{ mark, layout, laidAt }} />;
      }
      case "margin":
        return (
          first &&
          last && (
            <button
              key={mark.id}
              type="button"
              aria-label={mark.label}
              title={`${mark.label}. Click to select its words`}
              data-colour={mark.colour}
              data-look={mark.look}
              data-faint={faint}
              className="lane-bracket"
              style={{ left: layout.width + 1 - 4 * (margin.indexOf(mark) % 3), top: first.top + 3, height: last.top - first.top + 24 }}
              onPointerDown={choose(mark)}
            />
          )
        );
      case "over":
        return null;
    }
  });
}

/** Marks of the margin that do more than be clicked, such as notes, each at the height of its word and none over another. */
export function Margin({ marks, layout, strengths }: Pick<LanesProps, "marks" | "layout" | "strengths">) {
  if (strengths.margin === "hidden") return null;
  const found = marks.flatMap((mark) => {
    const box = mark.drawn && boxAt(layout, mark.begin);
    return box ? [{ mark, top: box.top + 4 }] : [];
  });
  // People come and go; what one may be about to click stays where it is.
  found.sort((one, other) => Number(one.mark.look === "person") - Number(other.mark.look === "person"));
  const places = besideLines(found.map(({ top }) => top));
  return found.map(({ mark }, index) => (
    <div key={mark.id} className="pointer-events-auto absolute" style={places[index]}>
      {mark.drawn}
    </div>
  ));
}

/** A symbol between words, which can be chosen by itself. */
export function Sign({ mark }: { mark: PageMark }) {
  return (
    <span
      role="button"
      aria-label={mark.label}
      title={mark.label}
      data-at={mark.selects?.anchor}
      data-look={mark.look}
      className="lane-sign"
      onPointerDown={(event) => {
        event.stopPropagation();
        if (mark.selects) select(mark.selects);
      }}
    >
      {mark.text}
    </span>
  );
}
