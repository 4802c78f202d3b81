/** What the keys do to a page, without drawing it. */
import { beforeEach, describe, expect, test, vi } from "vitest";
import { ACTIONS, act, changeKeys, keysFor, keysOf, onKey, shown } from "../src/app/shortcuts";
import { GROUPS } from "../src/page/actions";
import { spliceNear } from "../src/page/go";
import type { Scene } from "../src/page/scene";
import { desk } from "../src/desk/desk";
import { arrive, here, playhead, put, select } from "../src/desk/place";
import { flatten } from "../src/page/tokens";
import type { Edit } from "../src/page/edit";
import { head, page, seconds } from "./made";

const words = page({ words: ["It", "is", "dry.", { rest: 1 }, "She", "leaks", "now."] }, { words: ["Yes."] });
const tokens = flatten(words);
const edit = () => ({ operate: vi.fn(), putBack: vi.fn(), strike: vi.fn(), undo: vi.fn(), redo: vi.fn() }) satisfies Edit;

let scene: Scene & { edit: ReturnType<typeof edit> };

beforeEach(() => {
  const kept = new Map<string, string>();
  vi.stubGlobal("localStorage", {
    getItem: (name: string) => kept.get(name) ?? null,
    setItem: (name: string, value: string) => kept.set(name, value),
  });
  vi.stubGlobal("Element", class {
    closest = () => null;
  });
  desk().set({ stage: "cut", playing: false, scale: 3 });
  arrive();
  scene = { tokens, head: head({ recorded_time: seconds(60) }), edit: edit(), reveal: vi.fn(), plan: undefined };
});

test("every group of the sheet has actions", () => {
  for (const group of GROUPS) expect(ACTIONS.some((action) => action.group === group), group).toBe(true);
});

function press(keys: string, times = 1) {
  const action = ACTIONS.find((each) => keysFor(each).includes(keys));
  if (!action) throw new Error(`no action has ${keys}`);
  for (let i = 0; i < times; i++) act(action, scene);
}

const picked = () => {
  const { selection } = here();
  if (!selection) return null;
  return tokens.list.filter((token) => token.at >= selection.anchor && token.at <= selection.focus && token.k === "w").map((token) => token.text).join(" ");
};

test("no two actions have the same keys or the same name", () => {
  const keys = ACTIONS.flatMap((each) => each.keys);
  expect(new Set(keys).size).toBe(keys.length);
  expect(new Set(ACTIONS.map((each) => each.name)).size).toBe(ACTIONS.length);
});

describe("selecting", () => {
  test("a sentence, and with the next press the next one too, over the rest between them", () => {
    put(seconds(0.6));
    press("W");
    expect(picked()).toBe("It is dry.");
    press("W");
    expect(picked()).toBe("It is dry. She leaks now.");
    press("W");
    expect(picked()).toBe("It is dry. She leaks now. Yes.");
  });

  test("a passage, which may be several sentences", () => {
    press("Shift+W");
    expect(picked()).toBe("It is dry. She leaks now.");
  });

  test("word by word in both directions", () => {
    put(seconds(2.6));
    press("Shift+ArrowRight", 2);
    expect(picked()).toBe("She leaks now.");
    press("Shift+ArrowLeft", 3);
    expect(here().selection).toMatchObject({ anchor: seconds(2.5), focus: seconds(1.5) });
  });

  test("from a mark to where one is, whichever comes first", () => {
    put(seconds(3.1));
    press("I");
    put(seconds(0.5));
    press("O");
    expect(picked()).toBe("is dry. She leaks");
  });

  test("everything", () => {
    press("Control+A");
    expect(picked()).toBe("It is dry. She leaks now. Yes.");
  });
});

describe("striking", () => {
  test("what is selected, or else the word at the playhead", () => {
    put(seconds(0.7));
    press("Delete");
    expect(scene.edit.strike).toHaveBeenLastCalledWith([[seconds(0.5), seconds(1)]]);
    press("W");
    press("Backspace");
    expect(scene.edit.strike).toHaveBeenLastCalledWith([[0, seconds(1.5)]]);
  });

  test("what is struck already does nothing; another key puts it back", () => {
    scene.head = head({ struck: [[0, seconds(1)]] });
    press("Delete");
    expect(scene.edit.strike).not.toHaveBeenCalled();
    press("B");
    expect(scene.edit.putBack).toHaveBeenCalledExactlyOnceWith([[0, seconds(0.5)]]);
  });

  test("everything before, after or but what is selected", () => {
    select({ anchor: seconds(0.5), focus: seconds(1) });
    const end = scene.head.recorded_time;
    for (const [key, ranges] of [
      ["[", [[0, seconds(0.5)]]],
      ["]", [[seconds(0.5), end]]],
      ["Shift+K", [[0, seconds(0.5)], [seconds(1.5), end]]],
    ] as const) {
      press(key);
      expect(scene.edit.strike).toHaveBeenLastCalledWith(ranges);
    }
  });
});

test("a place a few seconds back is not before the beginning", () => {
  put(seconds(3));
  press("Shift+B");
  expect(playhead()).toBe(0);
});

test("the splice at a selection is the one at its later end", () => {
  const now = head({ splices: [100, 900, 5000] });
  expect(spliceNear(now, 800)).toBe(900);
  expect(spliceNear(now, { anchor: 120, focus: 4000 })).toBe(5000);
  expect(spliceNear(head(), 800)).toBeUndefined();
});

test("closer and wider stop at their ends", () => {
  press("+", 9);
  expect(desk()).toMatchObject({ magnification: "fine", scale: 1.5 });
  press("-", 9);
  expect(desk().scale).toBe(24);
});

describe("keys", () => {
  const event = (key: string, more: Partial<KeyboardEvent> = {}) =>
    ({ key, ctrlKey: false, metaKey: false, shiftKey: false, altKey: false, defaultPrevented: false, target: null, preventDefault: vi.fn(), ...more }) as unknown as KeyboardEvent;

  test.each([
    [{ key: " " }, "Space"],
    [{ key: "z", ctrlKey: true, shiftKey: true }, "Control+Shift+Z"],
    [{ key: "z", metaKey: true }, "Control+Z"],
    [{ key: "?", shiftKey: true }, "?"],
    [{ key: "ArrowLeft", shiftKey: true }, "Shift+ArrowLeft"],
  ])("%o reads %s", (pressed, text) => expect(keysOf(event("", pressed))).toBe(text));

  test("are written as people read them", () => expect(shown("Control+Shift+ArrowLeft")).toBe("Ctrl+Shift+Left"));

  test("do what they are for, and nothing while one types or with Alt", () => {
    onKey(event("z", { ctrlKey: true }), scene);
    expect(scene.edit.undo).toHaveBeenCalledOnce();
    onKey(event("z", { ctrlKey: true, altKey: true }), scene);
    onKey(event("z", { ctrlKey: true, defaultPrevented: true }), scene);
    const field = Object.assign(new Element(), { closest: (what: string) => (what.includes("textarea") ? {} : null) });
    onKey(event("z", { ctrlKey: true, target: field }), scene);
    expect(scene.edit.undo).toHaveBeenCalledOnce();
  });

  test("of a button that has the focus stay its own", () => {
    const button = Object.assign(new Element(), { closest: (what: string) => (what.includes("button") ? {} : null) });
    const pressed = event("Enter", { target: button });
    onKey(pressed, scene);
    expect(pressed.preventDefault).not.toHaveBeenCalled();
    onKey(event("Delete", { target: button }), scene);
    expect(scene.edit.strike).toHaveBeenCalledOnce();
  });

  test("can be changed; who had them is told and has its others left, and its own come back", () => {
    const [strike, undo] = ["strike", "undo"].map((id) => ACTIONS.find((each) => each.id === id));
    if (!strike || !undo) throw new Error("they are there");
    expect(changeKeys(undo, "Delete")).toBe(strike);
    expect([keysFor(undo), keysFor(strike)]).toEqual([["Delete"], ["Backspace"]]);
    press("Delete");
    expect(scene.edit.undo).toHaveBeenCalledOnce();
    changeKeys(undo, null);
    expect(keysFor(undo)).toEqual(["Control+Z"]);
  });
});
