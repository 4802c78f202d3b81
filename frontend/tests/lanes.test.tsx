// @vitest-environment jsdom
/** Marks in their lanes: where they stand, how they are drawn, and how they are moved. */
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { Plan, Voice } from "../src/api/client";
import { arrive, here } from "../src/desk/place";
import { drag } from "../src/page/drag";
import type { Edit } from "../src/page/edit";
import { Lanes, Margin, Washes } from "../src/page/Lanes";
import { acrossLines, besideLines, pieces, showLayout, type Layout } from "../src/page/layout";
import { between, ROOM, roomOf, strengthsOf, type PageMark } from "../src/page/marks";
import { cardMarks } from "../src/page/placed";
import { placed } from "../src/page/standing";
import { shotMarks } from "../src/page/shots";
import { page, seconds } from "./made";

/** Four words a line, each a tick long for the ease of reading. */
const layout: Layout = {
  boxes: Array.from({ length: 12 }, (_, at) => ({ at, len: 1, left: 50 * (at % 4), top: 60 * Math.floor(at / 4), width: 50, height: 56 })),
  width: 400,
  height: 180,
};

const mark = (more: Partial<PageMark>): PageMark => ({ id: "m", lane: "over", begin: 2, end: 6, look: "select", label: "Select, moss", ...more });

beforeEach(() => arrive());
afterEach(cleanup);

describe("a layout", () => {
  test("parts a stretch into pieces, one for each line", () => {
    expect(pieces(layout, 2, 9).map(({ left, right, top, begin, end }) => [left, right, top, begin, end])).toEqual([
      [100, 200, 0, 2, 4],
      [0, 200, 60, 4, 8],
      [0, 50, 120, 8, 9],
    ]);
  });

  test("counts a word where its middle is", () => {
    expect(pieces(layout, 2.6, 4.6).map(({ begin, end }) => [begin, end])).toEqual([
      [3, 4],
      [4, 5],
    ]);
    expect(pieces(layout, 2.6, 3.4)).toEqual([]);
  });

  test("has marks beside its lines side by side, then one below another, never one over another", () => {
    const places = besideLines([4, 4, 4, 64, 33, 4, 33]);
    expect(places.slice(0, 4).map(({ left, top }) => [left, top])).toEqual([
      [8, 4],
      [28, 4],
      [8, 24],
      [8, 64],
    ]);
    for (const [index, one] of places.entries())
      for (const other of places.slice(index + 1)) expect(Math.abs(one.top - other.top) >= 20 || Math.abs(one.left - other.left) >= 20).toBe(true);
    expect(besideLines([4, 4]).slice(0, 1)).toEqual(besideLines([4])); // one who comes moves nobody
  });

  test("leads from line to line, also into the next passage", () => {
    const elements = [0, 200].map((top) => {
      const element = document.createElement("div");
      element.getBoundingClientRect = () => ({ left: 0, top }) as DOMRect;
      return element;
    });
    const next: Layout = { ...layout, boxes: layout.boxes.map((box) => ({ ...box, at: box.at + 100 })) };
    const leave = [layout, next].map((each, index) => showLayout(elements[index] as HTMLElement, each));
    expect([acrossLines(1, 1), acrossLines(6, -1), acrossLines(11, 1), acrossLines(102, -1)]).toEqual([5, 2, 103, 10]);
    expect(acrossLines(2, -1)).toBeNull();
    for (const each of leave) each();
    expect(acrossLines(1, 1)).toBeNull();
  });
});

describe("lanes", () => {
  test("are as strong as the stage wants them, unless somebody shows or hides one by hand", () => {
    expect(strengthsOf({ above: "faint" })).toMatchObject({ above: "faint", over: "strong" });
    expect(strengthsOf({ above: "hidden", below: "strong" }, { above: true, below: false })).toMatchObject({ above: "faint", below: "hidden" });
  });

  test("take room only where something stands in them that is shown", () => {
    const marks = [mark({ lane: "above" })];
    expect(roomOf("above", marks, strengthsOf())).toBe(ROOM);
    expect(roomOf("above", [...marks, mark({ lane: "above", row: 1 })], strengthsOf())).toBe(2 * ROOM);
    expect(roomOf("below", marks, strengthsOf())).toBe(0);
    expect(roomOf("above", marks, strengthsOf({ above: "hidden" }))).toBe(0);
  });

  test("of a passage hold what reaches into it", () => {
    const marks = [mark({ begin: 0, end: 5 }), mark({ begin: 5, end: 9 }), mark({ begin: 20, end: 30 })];
    expect(between(marks, 5, 20)).toEqual([marks[1]]);
    expect(between(marks, 4, 21)).toEqual(marks);
  });

  const props = { layout, strengths: strengthsOf(), above: 19, laidAt: () => null };

  test("are drawn by line: pictures above the words, with what can be read once", () => {
    render(<Lanes {...props} marks={[mark({ lane: "above", text: "Orla", label: "Seen: Orla" })]} />);
    const bars = [...document.querySelectorAll<HTMLElement>(".lane-bar")];
    expect(bars.map((bar) => [bar.textContent, bar.style.top])).toEqual([
      ["Orla", "-19px"],
      ["", "41px"],
    ]);
    expect(screen.getAllByRole("note")).toHaveLength(1);
  });

  test("that are faint say so, and hidden ones are not drawn", () => {
    const marks = [mark({ lane: "above", text: "Orla" })];
    const { rerender } = render(<Lanes {...props} marks={marks} strengths={strengthsOf({ above: "faint" })} />);
    expect(document.querySelectorAll(".lane-bar[data-faint]")).toHaveLength(2);
    rerender(<Lanes {...props} marks={marks} strengths={strengthsOf({ above: "hidden" })} />);
    expect(document.querySelectorAll(".lane-bar")).toHaveLength(0);
  });

  test("in the margin, a bracket selects its words, and a note stands at its word", () => {
    const marks = [mark({ lane: "margin", selects: { anchor: 2, focus: 5 } }), mark({ id: "n", lane: "margin", begin: 9, end: 10, drawn: <b>a note</b> })];
    render(
      <>
        <Lanes {...props} marks={marks} />
        <Margin {...props} marks={marks} />
      </>,
    );
    fireEvent.pointerDown(screen.getByRole("button", { name: "Select, moss" }));
    expect(here().selection).toEqual({ anchor: 2, focus: 5 });
    expect(screen.getByText("a note").parentElement?.style.top).toBe("124px");
  });

  test("somebody who comes by does not cover a note, and does not move it", () => {
    const note = mark({ id: "n", lane: "margin", begin: 9, end: 10, look: "note", drawn: <b>a note</b> });
    const somebody = mark({ id: "p", lane: "margin", begin: 8, end: 9, look: "person", drawn: <i>TM</i> });
    render(<Margin {...props} marks={[somebody, note]} />);
    const [one, other] = ["a note", "TM"].map((text) => screen.getByText(text).parentElement?.style);
    expect([one?.left, one?.top, other?.left, other?.top]).toEqual(["8px", "124px", "28px", "124px"]);
  });

  test("a wash is moved by its ends, from word to word", async () => {
    const resize = vi.fn(() => Promise.resolve());
    let under = 0;
    render(<Washes {...props} laidAt={() => under} marks={[mark({ resize })]} />);
    const [begin, end] = screen.getAllByRole("slider") as [HTMLElement, HTMLElement];
    fireEvent.keyDown(begin, { key: "ArrowLeft" });
    fireEvent.keyDown(end, { key: "ArrowRight" });
    expect(resize.mock.calls).toEqual([
      [1, 6],
      [2, 7],
    ]);
    fireEvent.pointerDown(end, { clientX: 0, clientY: 0 });
    under = 9;
    fireEvent.pointerMove(window, { clientX: 90, clientY: 0, buttons: 1 });
    expect(document.querySelectorAll(".wash")).toHaveLength(3);
    fireEvent.keyDown(window, { key: "Escape" });
    expect(document.querySelectorAll(".wash")).toHaveLength(2);
    fireEvent.pointerDown(end, { clientX: 0, clientY: 0 });
    fireEvent.pointerMove(window, { clientX: 90, clientY: 0, buttons: 1 });
    await act(() => fireEvent.pointerUp(window));
    expect(resize).toHaveBeenLastCalledWith(2, 10);
  });
});

describe("dragging", () => {
  const begin = (scroller?: HTMLElement) => {
    const acts = { move: vi.fn(), drop: vi.fn(), cancel: vi.fn() };
    drag({ clientX: 0, clientY: 0, ctrlKey: false } as never, { ...acts, scroller: scroller ?? null });
    return acts;
  };

  test("tells a click from a drag", () => {
    const click = begin();
    fireEvent.pointerMove(window, { clientX: 3, clientY: 0, buttons: 1 });
    fireEvent.pointerUp(window);
    expect(click.drop).toHaveBeenCalledWith(false, expect.anything());
    const far = begin();
    fireEvent.pointerMove(window, { clientX: 30, clientY: 0, buttons: 1 });
    fireEvent.pointerUp(window);
    expect(far.drop).toHaveBeenCalledWith(true, expect.anything());
  });

  test("is given up by Escape, which nobody else hears", () => {
    const heard = vi.fn();
    window.addEventListener("keydown", heard);
    const { cancel, drop } = begin();
    fireEvent.keyDown(document.body, { key: "Escape" });
    fireEvent.pointerUp(window);
    expect([cancel.mock.calls.length, drop.mock.calls.length, heard.mock.calls.length]).toEqual([1, 0, 0]);
    window.removeEventListener("keydown", heard);
  });

  test("goes on beyond the edge of what scrolls", async () => {
    const scroller = document.createElement("div");
    scroller.getBoundingClientRect = () => ({ top: 0, bottom: 300 }) as DOMRect;
    const { move } = begin(scroller);
    fireEvent.pointerMove(window, { clientX: 0, clientY: 340, buttons: 1 });
    const before = move.mock.calls.length;
    await vi.waitFor(() => expect(scroller.scrollTop).toBeGreaterThan(20));
    expect(move.mock.calls.length).toBeGreaterThan(before);
    fireEvent.pointerUp(window);
  });
});

describe("marks of the material", () => {
  const words = page({ words: ["a", "b", "c"] }, { recording: "other", words: ["x"] }, { words: [{ text: "b", t: seconds(0.5) }] });

  test("stand wherever their words do, and lead back to the place in the recording", () => {
    const found = placed(words.passages, "s", "a", seconds(0.4), seconds(1.1));
    expect(found.map(({ begin, end }) => [begin / 24_000, end / 24_000])).toEqual([
      [1, 2],
      [4, 5],
    ]);
    expect(found[0]?.toMaterial(seconds(1.25))).toBe(seconds(1.25));
  });

  test("are not shown where none of their words is", () => expect(placed(words.passages, "s", "a", seconds(9), seconds(10))).toEqual([]));
});

describe("what is seen", () => {
  const spans = [{ at: 0, until: 100, handover: 0, laid: 0 }];
  const view = { recording: "r", place: 0, speed: 1, box: [0, 0, 1, 1], crops: [] };
  const layer = (begin: number, until: number, text: string | null = null) => ({ begin, until, text, views: text === null ? [view] : [] });
  const plan = (...layers: ReturnType<typeof layer>[]) => ({ spans, layers, length: 100 }) as unknown as Plan;

  test("cards stand in their lane, once where the same goes on behind a splice", () => {
    const marks = cardMarks(plan(layer(0, 10, "The dry hull"), layer(10, 20, "The dry hull"), layer(20, 40), layer(40, 100, "Part two")));
    expect(marks.map(({ text, begin, end }) => [text, begin, end])).toEqual([
      ["The dry hull", 0, 20],
      ["Part two", 40, 100],
    ]);
  });

  test("shots have the ink of their voice and say what somebody chose", () => {
    const voices = [{ id: "a", name: "Orla", shown: "Orla", number: 1, like: null }] as Voice[];
    const shot = { begin: 0, end: 50, at: 0, until: 50, framing: "single", voices: ["a"], by_hand: false } as const;
    const [first, second] = shotMarks([{ ...shot, voices: ["a"] }, { ...shot, begin: 50, end: 90, by_hand: true, framing: "grid", voices: [] }], voices, {} as Edit);
    expect([first?.text, first?.ink, first?.resize]).toEqual(["Orla", "--blue", expect.any(Function)]);
    expect(second?.text).toBe("first camera · by hand");
  });
});
