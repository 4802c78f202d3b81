import { beforeEach, describe, expect, test, vi } from "vitest";
import { queryClient } from "../src/api/client";
import { keys } from "../src/api/queries";
import { arrive, put, select } from "../src/desk/place";
import type { Edit } from "../src/page/edit";
import { accept, going, judging, known, listed, neighbour, pickOf, pickTake, reopen, type Finding } from "../src/stages/tidy/judging";
import { finding } from "./made";

const all = [
  finding("um", { begin: 100, end: 110 }),
  finding("so", { kind: "empty word", text: "so", begin: 200, end: 220 }),
  finding("gone", { begin: 300, end: 310, state: "accepted" }),
  finding("again", {
    kind: "retake",
    text: "the first thing",
    begin: 400,
    end: 900,
    pick: 1,
    takes: [
      { begin: 400, end: 500 },
      { begin: 550, end: 700 },
      { begin: 720, end: 900 },
    ] as Finding["takes"],
  }),
  finding("air", { kind: "breath", text: "", begin: 950, end: 990 }),
];
const ids = (list: readonly Finding[]) => list.map((each) => each.id);
const edit = () => ({ operate: vi.fn(), putBack: vi.fn(), strike: vi.fn(), undo: vi.fn(), redo: vi.fn() }) satisfies Edit;

beforeEach(() => {
  judging().set({ kind: "all", filter: "", judged: false, picks: {} });
  arrive();
  queryClient.clear();
});

describe("the list", () => {
  test("shows what is open, of every kind or of one", () => {
    expect(ids(listed(all))).toEqual(["um", "so", "again", "air"]);
    judging().set({ kind: "filler" });
    expect(ids(listed(all))).toEqual(["um"]);
    judging().set({ judged: true });
    expect(ids(listed(all))).toEqual(["um", "gone"]);
  });

  test("is narrowed by what findings say", () => {
    judging().set({ filter: " SO " });
    expect(ids(listed(all))).toEqual(["so"]);
  });

  test("is stepped through round its ends, beginning at the playhead", () => {
    const list = listed(all);
    put(150);
    expect([neighbour(list, 1)?.id, neighbour(list, -1)?.id]).toEqual(["so", "um"]);
    select({ anchor: 0, focus: 0, of: "air" });
    expect([neighbour(list, 1)?.id, neighbour(list, -1)?.id]).toEqual(["um", "again"]);
    expect(neighbour([], 1)).toBeUndefined();
  });
});

describe("takes", () => {
  const retake = all[3] as Finding;

  test("all but the one that is kept go, whichever was picked", () => {
    expect(going(retake)).toEqual([
      [400, 500],
      [720, 900],
    ]);
    pickTake(retake, 2);
    expect(pickOf(retake)).toBe(2);
    expect(going(retake)).toEqual([
      [400, 500],
      [550, 700],
    ]);
  });

  test("once accepted, the one that was kept then counts", () => {
    pickTake(retake, 0);
    expect(pickOf({ ...retake, state: "accepted" })).toBe(1);
  });

  test("of a breath nothing goes, of anything else all of it", () => {
    expect(all.filter((each) => !each.takes.length).map((each) => going(each).length)).toEqual([1, 1, 1, 0]);
  });
});

describe("accepting", () => {
  test("several at once is one operation, with the takes that were picked", () => {
    const did = edit();
    pickTake(all[3] as Finding, 2);
    accept("e", did, all);
    expect(did.operate).toHaveBeenCalledExactlyOnceWith({
      kind: "tidy",
      findings: [
        { id: "um", pick: null },
        { id: "so", pick: null },
        { id: "again", pick: 2 },
        { id: "air", pick: null },
      ],
    });
  });

  test("what is accepted already changes nothing", () => {
    const did = edit();
    accept("e", did, all.slice(2, 3));
    expect(did.operate).not.toHaveBeenCalled();
  });

  test("is shown before the server has answered", () => {
    queryClient.setQueryData(keys.findings("e", 4), { revision: 4, findings: all });
    accept("e", edit(), all.slice(0, 1));
    expect(known("e").filter((each) => each.state === "accepted").map((each) => each.id)).toEqual(["um", "gone"]);
  });

  test("is taken back by putting the words back, and of a breath by its level", () => {
    const did = edit();
    reopen(did, all[2] as Finding);
    expect(did.putBack).toHaveBeenCalledExactlyOnceWith([[300, 310]]);
    reopen(did, all[4] as Finding);
    expect(did.operate).toHaveBeenCalledExactlyOnceWith({ kind: "adjust", begin: 950, end: 990, track: null, decibels: 0 });
  });
});

test("of several answers the newest is known", () => {
  queryClient.setQueryData(keys.findings("e", 3), { revision: 3, findings: all.slice(0, 1) });
  queryClient.setQueryData(keys.findings("e", 5), { revision: 5, findings: all.slice(0, 2) });
  queryClient.setQueryData(keys.findings("e", 4), { revision: 4, findings: [] });
  expect(ids(known("e"))).toEqual(["um", "so"]);
  expect(known("other")).toEqual([]);
});
