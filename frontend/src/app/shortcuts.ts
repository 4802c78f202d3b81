/** What keys do. Each action has a name for people; the sheet of shortcuts is made from this list. */
import type { Head } from "../api/client";
import { RATE } from "../api/time";
import type { Edit } from "../page/edit";
import { toggles } from "../page/edit";
import { indexAt, selected, type Tokens } from "../page/tokens";
import { places } from "../page/find";
import { player } from "../player/player";
import { stepTo } from "../stages/read/Correct";
import { FIND_FIELD } from "../stages/read/Find";
import { desk } from "./desk";

export interface Scene {
  tokens: Tokens;
  head: Head;
  edit: Edit;
  reveal: (laid: number) => void;
  help: () => void;
}

export interface Shortcut {
  keys: string;
  name: string;
  run: (scene: Scene) => void;
}

export const SPEEDS = [0.75, 1, 1.25, 1.5, 1.75, 2] as const;

function goTo(scene: Scene, index: number, extend: boolean) {
  const { list } = scene.tokens;
  const from = list[indexAt(list, desk().selection?.focus ?? desk().playhead)];
  const token = list[Math.max(0, Math.min(list.length - 1, index))];
  if (!token || !from) return;
  if (extend) desk().set({ selection: { anchor: desk().selection?.anchor ?? from.at, focus: token.at } });
  else {
    desk().set({ selection: null });
    player.seek(token.at);
  }
  scene.reveal(token.at);
}

const caret = ({ tokens }: Scene) => indexAt(tokens.list, desk().selection?.focus ?? desk().playhead);

const byToken = (step: number, extend: boolean) => (scene: Scene) => goTo(scene, caret(scene) + step, extend);

/** One line up or down: the token nearest to the one above or below it. */
const byLine = (way: 1 | -1, extend: boolean) => (scene: Scene) => {
  const here = scene.tokens.list[caret(scene)];
  const box = document.querySelector(`[data-at="${here?.at ?? -1}"]`)?.getBoundingClientRect();
  if (!box) return goTo(scene, caret(scene) + way * 10, extend);
  let best: { at: number; far: number } | undefined;
  for (const element of document.querySelectorAll<HTMLElement>(".tok")) {
    const there = element.getBoundingClientRect();
    const down = way * (there.top - box.top);
    if (there.width === 0 || down < box.height / 2 || down > 4 * box.height) continue;
    const far = down * 8 + Math.abs(there.left + there.width / 2 - box.left - box.width / 2);
    if (!best || far < best.far) best = { at: Number(element.dataset["at"]), far };
  }
  if (best) goTo(scene, indexAt(scene.tokens.list, best.at), extend);
};

const bySeconds = (seconds: number) => (scene: Scene) => {
  const end = scene.head.recorded_time - 1;
  const laid = Math.max(0, Math.min(end, desk().playhead + seconds * RATE));
  player.seek(laid);
  scene.reveal(laid);
};

/** What is selected, or the word at the playhead. */
function target(scene: Scene): [number, number] | null {
  const picked = selected(scene.tokens.list, desk().selection);
  if (picked) return picked;
  const token = scene.tokens.list[indexAt(scene.tokens.list, desk().playhead)];
  return token ? [token.at, token.at + token.len] : null;
}

const strike = (scene: Scene) => {
  const range = target(scene);
  if (range && toggles(scene.head, range) === "strike") scene.edit.strike([range]);
};

const unsure = (way: 1 | -1) => (scene: Scene) => stepTo(places("unsure", scene.tokens, scene.head), way, scene.reveal);

const accept = (scene: Scene) => {
  const range = target(scene);
  if (range) scene.edit.operate({ kind: "accept", begin: range[0], end: range[1] });
};

const passage = (begins: boolean) => (scene: Scene) => {
  const range = target(scene);
  if (range) scene.edit.operate({ kind: "passage", at: range[0], begins });
};

const findWords = () => {
  desk().set({ stage: "read" });
  // The bench is drawn first.
  requestAnimationFrame(() => document.getElementById(FIND_FIELD)?.focus());
};

const faster = () => {
  const { playing, speed } = desk();
  if (!playing) return player.toggle();
  player.setSpeed(SPEEDS.find((each) => each > speed) ?? speed);
};

export const SHORTCUTS: readonly Shortcut[] = [
  { keys: "Space", name: "Play or pause", run: () => player.toggle() },
  { keys: "J", name: "Back five seconds", run: bySeconds(-5) },
  { keys: "K", name: "Pause", run: () => player.pause() },
  { keys: "L", name: "Play; again: faster", run: faster },
  { keys: "ArrowLeft", name: "Word before", run: byToken(-1, false) },
  { keys: "ArrowRight", name: "Next word", run: byToken(1, false) },
  { keys: "ArrowUp", name: "Line above", run: byLine(-1, false) },
  { keys: "ArrowDown", name: "Line below", run: byLine(1, false) },
  { keys: "Home", name: "To the beginning", run: (scene) => goTo(scene, 0, false) },
  { keys: "End", name: "To the end", run: (scene) => goTo(scene, scene.tokens.list.length - 1, false) },
  { keys: "Shift+ArrowLeft", name: "Select a word back", run: byToken(-1, true) },
  { keys: "Shift+ArrowRight", name: "Select a word on", run: byToken(1, true) },
  { keys: "Shift+ArrowUp", name: "Select a line up", run: byLine(-1, true) },
  { keys: "Shift+ArrowDown", name: "Select a line down", run: byLine(1, true) },
  { keys: "Control+A", name: "Select everything", run: ({ tokens }) => desk().set({ selection: { anchor: 0, focus: tokens.list.at(-1)?.at ?? 0 } }) },
  { keys: "Escape", name: "Select nothing", run: () => desk().set({ selection: null }) },
  { keys: "Delete", name: "Strike what is selected", run: strike },
  { keys: "Backspace", name: "Strike what is selected", run: strike },
  {
    keys: "B",
    name: "Put back what is selected",
    run: (scene) => {
      const range = target(scene);
      if (range) scene.edit.putBack([range]);
    },
  },
  { keys: "Control+Z", name: "Undo", run: ({ edit }) => edit.undo() },
  { keys: "Control+Shift+Z", name: "Redo", run: ({ edit }) => edit.redo() },
  { keys: "Control+Y", name: "Redo", run: ({ edit }) => edit.redo() },
  { keys: "Enter", name: "Retype what is selected", run: () => desk().set({ retyping: true }) },
  { keys: "Control+F", name: "Find words", run: findWords },
  { keys: "U", name: "Next unsure word", run: unsure(1) },
  { keys: "Shift+U", name: "Unsure word before", run: unsure(-1) },
  { keys: "A", name: "Accept an unsure word", run: accept },
  { keys: "P", name: "A passage begins here", run: passage(true) },
  { keys: "Shift+P", name: "Passage runs on", run: passage(false) },
  {
    keys: "Shift+Space",
    name: "Hear what is selected",
    run: (scene) => {
      const range = target(scene);
      if (range) player.playBetween(range[0] - RATE, range[1] + RATE);
    },
  },
  { keys: "H", name: "Hide or show struck words", run: () => desk().set({ showStruck: !desk().showStruck }) },
  { keys: "M", name: "Change the magnification", run: () => desk().set({ magnification: desk().magnification === "prose" ? "score" : "prose" }) },
  { keys: "R", name: "As edited or as recorded", run: () => desk().set({ mode: desk().mode === "edited" ? "recorded" : "edited" }) },
  { keys: "?", name: "This list", run: ({ help }) => help() },
];

const BY_KEYS = new Map(SHORTCUTS.map((shortcut) => [shortcut.keys, shortcut]));

/** The keys of an event as the list writes them. */
function keysOf(event: KeyboardEvent): string {
  if (event.key === "?") return "?";
  const key = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  return `${event.ctrlKey || event.metaKey ? "Control+" : ""}${event.shiftKey ? "Shift+" : ""}${key}`;
}

const TYPING = "input, textarea, select, [contenteditable]";
const PRESSING = "button, a, [role=slider], [role=dialog]";

export function onKey(event: KeyboardEvent, scene: Scene) {
  const element = event.target instanceof Element ? event.target : null;
  if (event.defaultPrevented || event.altKey || element?.closest(TYPING)) return;
  const shortcut = BY_KEYS.get(keysOf(event));
  if (!shortcut) return;
  // A focused button keeps its own keys.
  if (element?.closest(PRESSING) && ["Space", "Enter", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Escape", "Home", "End"].includes(shortcut.keys)) return;
  event.preventDefault();
  shortcut.run(scene);
}
