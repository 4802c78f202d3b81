/** The places of a framing over the monitor, of people and of what else lies in it, dragged and resized. */
import clsx from "clsx";
import { useState, type KeyboardEvent, type PointerEvent } from "react";
import type { SchemaOwnFramingField as OwnFraming } from "../../api/schema";
import { snapped, useDrawn, type Slot } from "./framing";

const NUDGE = 0.01;

const NAMES: Record<string, string> = { card: "Card", logo: "Logo", voice: "Voice" };

const percent = (part: number) => `${100 * part}%`;

export function Slots({ framing }: { framing: OwnFraming }) {
  const [guides, setGuides] = useState<{ across: readonly number[]; down: readonly number[] }>({ across: [], down: [] });
  const people = framing.slots.length;
  const slots = [...framing.slots, ...framing.fixtures.map((each) => each.box)] as unknown as readonly Slot[];
  const put = (index: number, slot: Slot) => {
    const next = slots.map((each, number) => [...(number === index ? slot : each)]);
    const fixtures = framing.fixtures.map((each, number) => ({ ...each, box: next[people + number] ?? each.box }));
    useDrawn.setState({ framing: { ...framing, slots: next.slice(0, people), fixtures } });
  };
  const nameOf = (index: number) => NAMES[framing.fixtures[index - people]?.kind ?? ""] ?? `Place ${index + 1}`;
  const grab = (index: number, event: PointerEvent<HTMLElement>, resizes: boolean) => {
    event.preventDefault();
    event.stopPropagation();
    const area = event.currentTarget.closest("[data-slots]")?.getBoundingClientRect();
    const slot = slots[index];
    if (!area || !slot) return;
    const [fromX, fromY] = [event.clientX, event.clientY];
    const [x, y, width, height] = slot;
    const others = slots.filter((_, number) => number !== index);
    const move = (to: globalThis.PointerEvent) => {
      const [dx, dy] = [(to.clientX - fromX) / area.width, (to.clientY - fromY) / area.height];
      const found = snapped(resizes ? [x, y, width + dx, height + dy] : [x + dx, y + dy, width, height], others, resizes);
      setGuides(found);
      put(index, found.slot);
    };
    const drop = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", drop);
      setGuides({ across: [], down: [] });
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop);
  };
  const nudge = (index: number, event: KeyboardEvent) => {
    const slot = slots[index];
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!way || !slot) return;
    event.preventDefault();
    event.stopPropagation();
    const [dx = 0, dy = 0] = way.map((each) => each * NUDGE);
    const [x, y, width, height] = slot;
    const moved: Slot = event.shiftKey ? [x, y, width + dx, height + dy] : [x + dx, y + dy, width, height];
    const [left, top, wide, high] = moved;
    if (left >= 0 && top >= 0 && left + wide <= 1.0001 && top + high <= 1.0001 && wide > 0.05 && high > 0.05) put(index, moved);
  };
  return (
    <div data-slots className="absolute inset-0 z-40 bg-[#131313]/60">
      {guides.down.map((x) => (
        <span key={`x${x}`} aria-hidden className="absolute inset-y-0 w-px bg-ochre" style={{ left: percent(x) }} />
      ))}
      {guides.across.map((y) => (
        <span key={`y${y}`} aria-hidden className="absolute inset-x-0 h-px bg-ochre" style={{ top: percent(y) }} />
      ))}
      {slots.map(([x, y, width, height], index) => (
        <div
          key={index}
          role="slider"
          tabIndex={0}
          aria-label={nameOf(index)}
          aria-valuenow={Math.round(100 * x)}
          aria-valuetext={`${Math.round(100 * x)} % from the left, ${Math.round(100 * y)} % from above, ${Math.round(100 * width)} by ${Math.round(100 * height)} %; arrow keys move it, with Shift they resize it`}
          className={clsx("absolute grid cursor-move place-items-center border border-paper font-semibold text-white", index < people ? "bg-blue/60 text-lg" : "bg-ink/60 text-xs")}
          style={{ left: percent(x), top: percent(y), width: percent(width), height: percent(height), borderRadius: index < people ? `${framing.corner / 2}%` : undefined }}
          onPointerDown={(event) => grab(index, event, false)}
          onKeyDown={(event) => nudge(index, event)}
        >
          {index < people ? index + 1 : nameOf(index)}
          <span aria-hidden data-corner className="absolute -bottom-1 -right-1 size-3 cursor-nwse-resize rounded-sm bg-paper" onPointerDown={(event) => grab(index, event, true)} />
        </div>
      ))}
    </div>
  );
}
