/** What the page offers to whom. */
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Head } from "../src/api/client";
import { ACTIONS, act } from "../src/app/shortcuts";
import { desk, EVERYTHING } from "../src/desk/desk";
import { select } from "../src/desk/place";
import { allowed } from "../src/page/actions";
import type { Scene } from "../src/page/scene";
import { STAGES } from "../src/stages";

const GIVEN = {
  editor: EVERYTHING.filter((right) => right !== "own"),
  proofreader: ["listen", "note", "read", "words", "captions", "export text"],
  exporter: ["listen", "read", "export text", "export"],
} as const;

const offered = () => new Set(ACTIONS.filter(allowed).map(({ id }) => id));
const action = (id: string) => {
  const found = ACTIONS.find((each) => each.id === id);
  if (!found) throw new Error(`there is no action ${id}`);
  return found;
};

function scene() {
  const list = [0, 1, 2].map((at) => ({ k: "w" as const, at, len: 1, t: at, text: `w${at}`, p: 1, loose: false, over: false, pickup: "" }));
  const edit = { strike: vi.fn(), putBack: vi.fn(), undo: vi.fn(), redo: vi.fn(), operate: vi.fn() };
  const head = { struck: [], locks: [] as Head["locks"], recorded_time: 3 } as unknown as Head;
  return { tokens: { list, passage: [0, 0, 0] }, head, edit, plan: undefined, reveal: vi.fn() } satisfies Scene;
}

beforeEach(() => desk().set({ rights: EVERYTHING, panel: null, said: null, stage: "" }));
afterEach(() => select(null));

describe("rights", () => {
  it("a person by themself is offered everything, each by a name of its own", () => {
    expect(offered().size).toBe(ACTIONS.length);
  });

  it("roles are offered the stages that are theirs", () => {
    const stages = (rights: readonly string[]) => STAGES.filter((stage) => rights.includes(stage.needs)).map(({ name }) => name);
    expect(stages(GIVEN.editor)).toHaveLength(STAGES.length);
    expect(stages(GIVEN.proofreader)).toEqual(["Read", "Captions", "Export"]);
    expect(stages(GIVEN.exporter)).toEqual(["Export"]);
  });

  it("who may not cut is offered no cutting", () => {
    desk().set({ rights: GIVEN.proofreader });
    const now = offered();
    for (const id of ["play", "left", "copy", "undo", "note", "suggest", "retype", "accept", "unsure", "history"]) expect(now, id).toContain(id);
    for (const id of ["strike", "lift", "cut", "paste", "rest", "lock", "refuse", "chapter", "select-amber"]) expect(now, id).not.toContain(id);
    desk().set({ rights: GIVEN.exporter });
    for (const id of ["retype", "note", "suggest", "undo"]) expect(offered(), id).not.toContain(id);
  });

  it("Delete suggests a cut where one may write notes, and says why nothing happens where not", () => {
    const here = scene();
    select({ anchor: 1, focus: 1 });
    desk().set({ rights: GIVEN.proofreader });
    act(action("strike"), here);
    expect(desk().panel).toBe("suggest");
    desk().set({ rights: GIVEN.exporter, panel: null });
    act(action("strike"), here);
    expect(desk().panel).toBeNull();
    expect(desk().said?.text).toContain("Your role");
    expect(here.edit.strike).not.toHaveBeenCalled();
  });

  it("one key locks, and unlocks what is locked there", () => {
    const here = scene();
    select({ anchor: 1, focus: 1 });
    act(action("lock"), here);
    expect(here.edit.operate).toHaveBeenLastCalledWith({ kind: "lock", ranges: [{ begin: 1, end: 2 }] });
    here.head.locks = [{ id: "l", ranges: [[0, 2]], who: "Orla", mine: true }];
    act(action("lock"), here);
    expect(here.edit.operate).toHaveBeenLastCalledWith({ kind: "unlock", id: "l" });
  });
});
