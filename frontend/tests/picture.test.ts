import { describe, expect, test } from "vitest";
import { shownAt } from "../src/monitor/graphics";
import { Turned } from "../src/monitor/turned";
import { inRows, type PageMark } from "../src/page/marks";
import { coverAt } from "../src/player/places";
import { snapped } from "../src/stages/picture/framing";

describe("what is drawn over the picture", () => {
  const strap = { begin: 0, until: 480_000, enter: "edge" as const, moves: 19_200 };

  test("comes behind a moving edge, stands, and goes", () => {
    expect(shownAt(strap, 0)).toEqual({ opaque: 1, share: 0 });
    expect(shownAt(strap, 9_600)).toEqual({ opaque: 1, share: 0.5 });
    expect(shownAt(strap, 240_000)).toEqual({ opaque: 1, share: 1 });
    expect(shownAt(strap, 480_000).share).toBe(0);
  });

  test("fades, or is there at once", () => {
    expect(shownAt({ ...strap, enter: "fade" }, 9_600)).toEqual({ opaque: 0.5, share: 1 });
    expect(shownAt({ ...strap, enter: "none" }, 0)).toEqual({ opaque: 1, share: 1 });
  });

  test("a bar grows evenly from the first moment to the last", () => {
    expect([0, 120_000, 480_000, 600_000].map((at) => shownAt({ ...strap, enter: "grow" }, at).share)).toEqual([0, 0.25, 1, 1]);
  });
});

describe("places of a framing", () => {
  test("snap to the middle of the picture, and say at which line", () => {
    const { slot, down, across } = snapped([0.253, 0.1, 0.5, 0.3], [], false);
    expect(slot[0]).toBeCloseTo(0.25);
    expect(down).toEqual([0.5]);
    expect(across).toEqual([]);
  });

  test("snap to the edge of another place, and stay within the picture", () => {
    expect(snapped([0.452, 0.2, 0.3, 0.3], [[0.1, 0.1, 0.35, 0.8]], false).slot[0]).toBeCloseTo(0.45);
    const [x, y] = snapped([0.9, -0.5, 0.3, 0.3], [], false).slot;
    expect([x, y]).toEqual([0.7, 0]);
  });

  test("are resized by their corner, and never to nothing", () => {
    expect(snapped([0.1, 0.1, 0.395, 0.2], [], true).slot[2]).toBeCloseTo(0.4);
    expect(snapped([0.1, 0.1, -0.2, 0.2], [], true).slot[2]).toBeGreaterThan(0.05);
  });
});

test("what is covered moves between its places, and is nowhere outside its way", () => {
  const cover = { form: "blur" as const, way: [{ at: 100, box: [0, 0, 0.2, 0.4] }, { at: 200, box: [0.4, 0, 0.3, 0.1] }] };
  expect(coverAt(cover, 150)).toEqual({ left: 0.2, top: 0, width: 0.3, height: 0.4 });
  expect(coverAt(cover, 200)?.left).toBe(0.4);
  expect(coverAt(cover, 99)).toBeNull();
  expect(coverAt(cover, 201)).toBeNull();
});

test("marks above the words stand in the first row that is free", () => {
  const mark = (begin: number, end: number): PageMark => ({ id: `${begin}`, lane: "above", begin, end, look: "cutaway" });
  expect(inRows([mark(0, 10), mark(5, 15), mark(10, 20), mark(30, 40)], 1).map(({ row }) => row)).toEqual([1, 2, 1, 1]);
});

describe("eyes turned to the camera", () => {
  const filmed = { recording: "cam", place: 96_000, speed: 1, box: [0, 0, 1, 1], crops: [], still: false, colours: null, covers: [], corner: 0, border: 0, border_colour: "", blurred: false, turned: "/turned/{piece}?amount=60" };

  test("are shown as filmed until a piece is there; what is next is asked for when it is looked at", async () => {
    const asked: string[] = [];
    const turned = new Turned((url) => (asked.push(url), Promise.resolve(true)));
    expect(turned.at(filmed, 48_000)).toBe(filmed);
    await Promise.resolve();
    expect(turned.at(filmed, 48_000)).toMatchObject({ recording: "/turned/1?amount=60", place: 0 });
    expect(turned.at(filmed, 48_000).place + 48_000).toBe(48_000);
    expect(asked).toEqual(["/turned/1?amount=60"]);
    expect(turned.lasts(filmed, 48_000)).toBe(48_000);
    expect(turned.at(filmed, 96_000)).toBe(filmed);
    expect(asked).toEqual(["/turned/1?amount=60", "/turned/2?amount=60"]);
  });

  test("what cannot be had is not asked for at every frame, and what is not turned never", () => {
    let asked = 0;
    const turned = new Turned(() => (asked++, Promise.reject(new Error("gone"))));
    for (let frame = 0; frame < 10; frame++) turned.at(filmed, 0);
    expect(asked).toBe(1);
    expect(turned.at({ ...filmed, turned: null }, 0).recording).toBe("cam");
    expect(turned.lasts({ ...filmed, turned: null }, 0)).toBe(Infinity);
  });
});
