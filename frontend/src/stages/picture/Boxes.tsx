/** Which part of a picture is seen at first and at last: two frames that are dragged and resized over it. */
import { useState, type KeyboardEvent, type PointerEvent } from "react";

interface BoxesProps {
  picture: string;
  first: readonly number[];
  last: readonly number[];
  keep: (next: { first: number[] } | { last: number[] }) => void;
}

const LEAST = 0.2;
const NUDGE = 0.02;

const clamped = ([x = 0, y = 0, size = 1]: readonly number[]) => {
  const side = Math.min(1, Math.max(LEAST, size));
  return [Math.min(1 - side, Math.max(0, x)), Math.min(1 - side, Math.max(0, y)), side, side];
};

export function Boxes({ picture, first, last, keep }: BoxesProps) {
  return (
    <div className="relative overflow-hidden rounded border border-line" style={{ aspectRatio: "16 / 9" }}>
      <img src={picture} alt="" className="absolute inset-0 size-full object-cover" />
      <Frame name="At first" colour="var(--blue)" box={first} keep={(box) => keep({ first: box })} />
      <Frame name="At last" colour="var(--ochre)" box={last} keep={(box) => keep({ last: box })} />
    </div>
  );
}

function Frame({ name, colour, box, keep }: { name: string; colour: string; box: readonly number[]; keep: (box: number[]) => void }) {
  const [dragged, setDragged] = useState<readonly number[] | null>(null);
  const [x = 0, y = 0, size = 1] = dragged ?? box;
  const grab = (event: PointerEvent<HTMLElement>, resizes: boolean) => {
    event.preventDefault();
    event.stopPropagation();
    const area = event.currentTarget.closest(".relative")?.getBoundingClientRect();
    if (!area) return;
    const [fromX, fromY] = [event.clientX, event.clientY];
    let now: number[] = [x, y, size, size];
    const move = (to: globalThis.PointerEvent) => {
      const [dx, dy] = [(to.clientX - fromX) / area.width, (to.clientY - fromY) / area.height];
      now = clamped(resizes ? [x, y, size + Math.max(dx, dy)] : [x + dx, y + dy, size]);
      setDragged(now);
    };
    const drop = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", drop);
      setDragged(null);
      keep(now);
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop);
  };
  const nudge = (event: KeyboardEvent) => {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    const grows = { "+": 1, "-": -1 }[event.key];
    if (!way && !grows) return;
    event.preventDefault();
    event.stopPropagation();
    const [dx = 0, dy = 0] = way ?? [];
    keep(clamped([x + dx * NUDGE, y + dy * NUDGE, size + (grows ?? 0) * NUDGE]));
  };
  return (
    <div
      role="slider"
      tabIndex={0}
      aria-label={`${name}: part of the picture`}
      aria-valuenow={Math.round(100 * size)}
      aria-valuetext={`${Math.round(100 * size)} % of the picture; arrow keys move it, + and - resize it`}
      className="absolute cursor-move border-2"
      style={{ left: `${100 * x}%`, top: `${100 * y}%`, width: `${100 * size}%`, height: `${100 * size}%`, borderColor: colour }}
      onPointerDown={(event) => grab(event, false)}
      onKeyDown={nudge}
    >
      <span className="absolute left-0 top-0 bg-paper px-1 text-xs leading-4 text-ink">{name}</span>
      <span aria-hidden className="absolute -bottom-1 -right-1 size-3 cursor-nwse-resize" style={{ background: colour }} onPointerDown={(event) => grab(event, true)} />
    </div>
  );
}
