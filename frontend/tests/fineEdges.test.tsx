// @vitest-environment jsdom
/** Edges on a line of Fine: dragged, given up, and moved by the arrow keys. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { Head, Token } from "../src/api/client";
import { desk } from "../src/desk/desk";
import type { Edit } from "../src/page/edit";
import { CutEdge, WordEdge } from "../src/page/FineEdges";

const PER_TICK = 0.01;
const operate = vi.fn();
const edit = { operate } as unknown as Edit;
const word = { k: "w", at: 1000, len: 500, text: "moss", t: 1000 } as Token;

afterEach(() => {
  cleanup();
  operate.mockClear();
  desk().set({ snapping: true });
});

function show(splice: number | null) {
  const head = { recorded_time: 90_000, splices: [] } as unknown as Head;
  render(
    <QueryClientProvider client={new QueryClient()}>
      <CutEdge edge={{ at: 3000, side: "before", splice }} x={30} perTick={PER_TICK} head={head} tokens={{ list: [word], passage: [0], paths: [] } as never} parts={[]} edit={edit} />
    </QueryClientProvider>,
  );
  return screen.getByRole("slider");
}

const dragTo = (handle: HTMLElement, x: number, keys = {}) => {
  fireEvent.pointerDown(handle, { clientX: 30, clientY: 0, button: 0 });
  fireEvent.pointerMove(window, { clientX: x, clientY: 0, buttons: 1, ...keys });
};

test("one without a splice is dragged into what is kept, or gives back what was taken", () => {
  const handle = show(null);
  dragTo(handle, 40);
  screen.getByText("21 ms");
  fireEvent.pointerUp(window);
  expect(operate).toHaveBeenLastCalledWith({ kind: "put back", ranges: [{ begin: 3000, end: 4000 }] }, expect.anything());
  dragTo(handle, 20, { ctrlKey: true });
  fireEvent.pointerUp(window);
  expect(operate).toHaveBeenLastCalledWith({ kind: "strike", ranges: [{ begin: 2000, end: 3000 }], why: "trimmed", settle: false }, expect.anything());
});

test("it stops at a word nearby, unless Ctrl is held", () => {
  const handle = show(4500);
  dragTo(handle, 16);
  fireEvent.pointerUp(window);
  expect(operate).toHaveBeenLastCalledWith({ kind: "trim", at: 4500, before: -1500, after: 0 }, expect.anything());
  dragTo(handle, 16, { ctrlKey: true });
  fireEvent.pointerUp(window);
  expect(operate).toHaveBeenLastCalledWith({ kind: "trim", at: 4500, before: -1400, after: 0 }, expect.anything());
});

test("a click and a drag that is given up move nothing", () => {
  const handle = show(4500);
  fireEvent.pointerDown(handle, { clientX: 33, clientY: 0, button: 0 });
  fireEvent.pointerUp(window);
  dragTo(handle, 60);
  fireEvent.keyDown(window, { key: "Escape" });
  fireEvent.pointerUp(window);
  expect(operate).not.toHaveBeenCalled();
});

test("arrow keys move it by 10 ms, with Alt both edges of the splice", () => {
  const handle = show(4500);
  fireEvent.keyDown(handle, { key: "ArrowRight" });
  expect(operate).toHaveBeenLastCalledWith({ kind: "trim", at: 4500, before: 480, after: 0 }, expect.anything());
  fireEvent.keyDown(handle, { key: "ArrowLeft", altKey: true, shiftKey: true });
  expect(operate).toHaveBeenLastCalledWith({ kind: "trim", at: 4500, before: -1920, after: -1920 }, expect.anything());
});

test("the end of a word is put where it is dropped", () => {
  render(<WordEdge token={word} x={15} perTick={PER_TICK} edit={edit} />);
  dragTo(screen.getByRole("slider", { name: "End of the word moss" }), 32);
  fireEvent.pointerUp(window);
  expect(operate).toHaveBeenLastCalledWith({ kind: "edges", at: 1000, begin: 1000, end: 1700 }, expect.anything());
});
