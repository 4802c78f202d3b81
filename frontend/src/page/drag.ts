/** Dragging on the page: beyond what is on the screen, and until it is dropped or Escape is pressed. */
import type { PointerEvent } from "react";

interface Drag {
  /** Follow the pointer, also where the page scrolls under it. */
  move: (point: { clientX: number; clientY: number; ctrlKey: boolean }) => void;
  /** Let go; `moved` where the pointer went further than a click does. */
  drop: (moved: boolean, keys: { altKey: boolean }) => unknown;
  /** Escape, or the pointer is gone: everything is as it was before. */
  cancel: () => void;
  /** What is scrolled while the pointer is at its edge. */
  scroller?: HTMLElement | null;
}

/** Pixels from the edge at which scrolling begins, and how far it goes in a frame for each pixel beyond that. */
const EDGE = 24;
const SPEED = 0.35;

/** Pixels that a hand moves when it clicks. */
const CLICK = 6;

export function drag(event: PointerEvent, { move, drop, cancel, scroller }: Drag): void {
  const begun = { x: event.clientX, y: event.clientY };
  let last = { clientX: event.clientX, clientY: event.clientY, ctrlKey: event.ctrlKey };
  let moved = false;
  let frame = 0;
  const scroll = () => {
    frame = requestAnimationFrame(scroll);
    if (!scroller || !moved) return;
    const { top, bottom } = scroller.getBoundingClientRect();
    const beyond = Math.min(0, last.clientY - top - EDGE) + Math.max(0, last.clientY - bottom + EDGE);
    if (!beyond) return;
    scroller.scrollTop += beyond * SPEED;
    move(last);
  };
  const follow = (next: globalThis.PointerEvent) => {
    if (next.buttons === 0) return end(next);
    last = { clientX: next.clientX, clientY: next.clientY, ctrlKey: next.ctrlKey };
    moved ||= Math.hypot(next.clientX - begun.x, next.clientY - begun.y) > CLICK;
    move(last);
  };
  const leave = () => {
    cancelAnimationFrame(frame);
    window.removeEventListener("pointermove", follow);
    window.removeEventListener("pointerup", end);
    window.removeEventListener("pointercancel", stop);
    window.removeEventListener("keydown", escape, true);
  };
  const end = (up: globalThis.PointerEvent) => {
    leave();
    drop(moved, up);
  };
  const stop = () => {
    leave();
    cancel();
  };
  const escape = (key: KeyboardEvent) => {
    if (key.key !== "Escape") return;
    key.preventDefault();
    key.stopPropagation();
    stop();
  };
  window.addEventListener("pointermove", follow);
  window.addEventListener("pointerup", end);
  window.addEventListener("pointercancel", stop);
  window.addEventListener("keydown", escape, true);
  frame = requestAnimationFrame(scroll);
}
