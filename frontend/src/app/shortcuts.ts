/** What can be done on the page, and by which keys; stages add what is theirs. */
import { RATE } from "../api/time";
import { desk, failed } from "../desk/desk";
import { begin, here, playhead, select } from "../desk/place";
import { may } from "../desk/rights";
import { allowed, target, type Action } from "../page/actions";
import { copy, kept, paste } from "../page/clipboard";
import { allAround, toggles } from "../page/edit";
import { spliceNear, stepTo } from "../page/go";
import { acrossLines } from "../page/layout";
import type { Scene } from "../page/scene";
import { covered, indexAt, selected } from "../page/tokens";
import { player } from "../player/player";
import { STAGES } from "../stages";

export const SPEEDS = [0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.5, 3] as const;

function goTo(scene: Scene, index: number, extend: boolean) {
  const { list } = scene.tokens;
  const from = list[indexAt(list, here().selection?.focus ?? playhead())];
  const token = list[Math.max(0, Math.min(list.length - 1, index))];
  if (!token || !from) return;
  if (extend) select({ anchor: here().selection?.anchor ?? from.at, focus: token.at });
  else {
    select(null);
    player.seek(token.at);
  }
  scene.reveal(token.at);
}

const caret = ({ tokens }: Scene) => indexAt(tokens.list, here().selection?.focus ?? playhead());

const byToken = (step: number, extend: boolean) => (scene: Scene) => goTo(scene, caret(scene) + step, extend);

/** One line up or down: the token nearest to the one above or below it. */
const byLine = (way: 1 | -1, extend: boolean) => (scene: Scene) => {
  const at = acrossLines(scene.tokens.list[caret(scene)]?.at ?? -1, way);
  goTo(scene, at === null ? caret(scene) + way * 10 : indexAt(scene.tokens.list, at), extend);
};

const bySeconds = (seconds: number) => (scene: Scene) => {
  const end = scene.head.recorded_time - 1;
  const laid = Math.max(0, Math.min(end, playhead() + seconds * RATE));
  player.seek(laid);
  scene.reveal(laid);
};

const strike = (scene: Scene) => {
  const range = target(scene);
  if (range && toggles(scene.head, range) === "strike") scene.edit.strike([range]);
};

const doesTo = (scene: Scene, what: "strike" | "put back") => {
  const range = target(scene);
  return range !== null && toggles(scene.head, range) === what;
};

const hasStruck = (scene: Scene) => {
  const range = target(scene);
  return range !== null && covered(scene.head.struck, ...range) > 0;
};

const restHere = (scene: Scene) => {
  const range = target(scene);
  const token = range && scene.tokens.list[indexAt(scene.tokens.list, range[0])];
  if (token?.k !== "r") return desk().say("Put the playhead on a rest first.");
  desk().set({ rest: token.at });
};

const putBack = (scene: Scene) => selection(scene, (range) => scene.edit.putBack([range]));

const suggest = (scene: Scene) => selection(scene, ([begin, end]) => {
  select({ anchor: begin, focus: end - 1 });
  desk().set({ panel: "suggest", draft: "" });
});

/** Lock what is selected against others, or unlock what is locked at its beginning. */
const lock = (scene: Scene) =>
  selection(scene, ([begin, end]) => {
    const known = scene.head.locks.find(({ ranges }) => ranges.some(([from = 0, to = 0]) => from <= begin && begin < to));
    scene.edit.operate(known ? { kind: "unlock", id: known.id } : { kind: "lock", ranges: [{ begin, end }] });
  });

const slower = () => player.setSpeed(SPEEDS.findLast((each) => each < desk().speed) ?? desk().speed);

const backwards = () => void player.playBackwards(Math.min(8, 2 * desk().backwards || 1));

const faster = () => {
  const { playing, speed, backwards } = desk();
  if (backwards) return void player.play();
  if (!playing) return player.toggle();
  player.setSpeed(SPEEDS.find((each) => each > speed) ?? speed);
};

const selection = (scene: Scene, act: (range: [number, number]) => void) => {
  const range = target(scene);
  if (range) act(range);
};

/** From-to in laid time of the sentence or passage around a place. */
function around({ tokens }: Scene, laid: number, what: "sentence" | "passage"): [number, number] | null {
  const { list, passage } = tokens;
  const here = indexAt(list, laid);
  if (!list[here]) return null;
  const ends = (index: number) => what === "sentence" && list[index]?.k === "w" && /[.?!…。？！]["'”’)\]»]*$/.test(list[index]?.text ?? "");
  const together = (index: number) => list[index] !== undefined && passage[index] === passage[here];
  let first = here;
  while (together(first - 1) && !ends(first - 1)) first--;
  let last = here;
  while (together(last + 1) && !ends(last)) last++;
  const [from, to] = [list[first], list[last]];
  return from && to ? [from.at, to.at + to.len] : null;
}

const selectRange = (range: readonly [number, number] | null) =>
  range && select({ anchor: range[0], focus: Math.max(range[0], range[1] - 1), exact: false });

/** Selects the sentence or passage; again, the next one too. */
const widen = (what: "sentence" | "passage") => (scene: Scene) => {
  const known = selected(scene.tokens.list, here().selection);
  const whole = around(scene, known ? known[0] : playhead(), what);
  if (!whole) return;
  if (!known || known[1] < whole[1] || known[0] > whole[0]) return selectRange(whole);
  // The rest after it is none by itself.
  const { list } = scene.tokens;
  const word = list.slice(indexAt(list, known[1])).find((token) => token.k === "w" && token.at >= known[1]);
  const next = word ? around(scene, word.at, what) : null;
  selectRange(next ? [whole[0], next[1]] : whole);
};

const startHere = () => {
  begin(playhead());
  desk().say("The selection starts here. Go to its other end and press O.");
};
const endHere = () => {
  const [from, to] = [here().started, playhead()];
  if (from === null) return desk().say("Press I where the selection starts, then O where it ends.");
  begin(null);
  select({ anchor: Math.min(from, to), focus: Math.max(from, to), exact: false });
};

const strikeAround = (side: "before" | "after" | "others") => (scene: Scene) =>
  selection(scene, (range) => void scene.edit.strike(allAround(scene.head, range, side)));

const nextSplice = (way: 1 | -1) => (scene: Scene) => {
  const places = scene.head.splices.map((at) => [at, at + 1] as const);
  stepTo(places, way, scene.reveal);
  select(null);
};

const hearSplice = ({ head }: Scene) => {
  const at = spliceNear(head, here().selection ?? here().cursor);
  if (at === undefined) return desk().say("There is no splice yet.");
  player.playAround(at, RATE, { loop: true });
};

const tryWithout = (scene: Scene) =>
  selection(scene, (range) => void player.tryWithout([range]).catch(failed));

const magnify = (steps: 1 | -1) => () => {
  const scales = [1.5, 3, 6, 12, 24];
  const index = scales.indexOf(desk().scale) - steps;
  desk().set({ magnification: "fine", scale: scales[Math.max(0, Math.min(scales.length - 1, index))] ?? 6 });
};
const MAGNIFICATIONS = ["prose", "score", "fine"] as const;
const panel = (name: string) => () => desk().set({ panel: name });

/** In the order of the sheet of keys within their groups. */
export const ACTIONS: readonly Action[] = [
  { id: "play", keys: ["Space"], name: "Play or pause", group: "Listen", run: () => player.toggle() },
  { id: "backwards", keys: ["J"], name: "Play backwards (again: faster)", group: "Listen", run: backwards },
  { id: "back", keys: ["Shift+B"], name: "Back five seconds", group: "Listen", run: bySeconds(-5) },
  { id: "pause", keys: ["K"], name: "Pause", group: "Listen", run: () => player.pause() },
  { id: "faster", keys: ["L"], name: "Play (again: faster)", group: "Listen", run: faster },
  { id: "slower", keys: ["Shift+L"], name: "Slower", group: "Listen", run: slower },
  { id: "hear", keys: ["Shift+Space"], name: "Play the selection and around it", group: "Listen", run: (scene) => selection(scene, ([a, b]) => player.playBetween(a - RATE, b + RATE)) },
  { id: "hear-alone", keys: ["Shift+Enter"], name: "Play only the selection", group: "Listen", run: (scene) => selection(scene, ([a, b]) => player.playBetween(a, b)) },
  { id: "run-up", keys: ["Shift+J"], name: "Play from two seconds back", group: "Listen", run: () => player.playFrom(playhead() - 2 * RATE) },
  { id: "loop", keys: ["Q"], name: "Loop on or off", group: "Listen", run: () => desk().set({ looping: !desk().looping }) },
  { id: "try", keys: ["T"], name: "Try: play without the selection", group: "Listen", run: tryWithout },
  { id: "hear-splice", keys: ["S"], name: "Loop the splice here", group: "Listen", run: hearSplice },
  { id: "next-splice", keys: ["N"], name: "Next splice", group: "Go", run: nextSplice(1) },
  { id: "splice-before", keys: ["Shift+N"], name: "Previous splice", group: "Go", run: nextSplice(-1) },
  { id: "mode", keys: ["R"], name: "Switch between edited and recorded", group: "Listen", run: () => desk().set({ mode: desk().mode === "edited" ? "recorded" : "edited" }) },
  { id: "left", keys: ["ArrowLeft"], name: "Previous word", group: "Go", run: byToken(-1, false) },
  { id: "right", keys: ["ArrowRight"], name: "Next word", group: "Go", run: byToken(1, false) },
  { id: "up", keys: ["ArrowUp"], name: "Line above", group: "Go", run: byLine(-1, false) },
  { id: "down", keys: ["ArrowDown"], name: "Line below", group: "Go", run: byLine(1, false) },
  { id: "home", keys: ["Home"], name: "To the beginning", group: "Go", run: (scene) => goTo(scene, 0, false) },
  { id: "end", keys: ["End"], name: "To the end", group: "Go", run: (scene) => goTo(scene, scene.tokens.list.length - 1, false) },
  { id: "select-left", keys: ["Shift+ArrowLeft"], name: "Extend the selection a word back", group: "Select", run: byToken(-1, true) },
  { id: "select-right", keys: ["Shift+ArrowRight"], name: "Extend the selection a word on", group: "Select", run: byToken(1, true) },
  { id: "select-up", keys: ["Shift+ArrowUp"], name: "Extend the selection a line up", group: "Select", run: byLine(-1, true) },
  { id: "select-down", keys: ["Shift+ArrowDown"], name: "Extend the selection a line down", group: "Select", run: byLine(1, true) },
  { id: "sentence", keys: ["W"], name: "Select the sentence (again: and the next)", group: "Select", run: widen("sentence") },
  { id: "passage", keys: ["Shift+W"], name: "Select the passage (again: and the next)", group: "Select", run: widen("passage") },
  { id: "start", keys: ["I"], name: "Start a selection here", group: "Select", run: startHere },
  { id: "to-here", keys: ["O"], name: "End the selection here", group: "Select", run: endHere },
  { id: "all", keys: ["Control+A"], name: "Select all", group: "Select", run: ({ tokens }) => select({ anchor: 0, focus: tokens.list.at(-1)?.at ?? 0 }) },
  { id: "none", keys: ["Escape"], name: "Clear the selection", group: "Select", run: () => select(null) },
  { id: "strike", keys: ["Delete", "Backspace"], name: "Strike the selection", group: "Cut", run: strike, offered: (scene) => doesTo(scene, "strike") },
  { id: "lift", keys: ["Shift+Delete", "Shift+Backspace"], name: "Lift the selection", group: "Cut", run: (scene) => selection(scene, ([begin, end]) => scene.edit.operate({ kind: "lift", ranges: [{ begin, end }], why: "by hand" })) },
  { id: "put-back", keys: ["B"], name: "Put back the selection", group: "Cut", run: putBack, offered: hasStruck },
  { id: "before", keys: ["["], name: "Strike everything before here", group: "Cut", run: strikeAround("before") },
  { id: "after", keys: ["]"], name: "Strike everything from here on", group: "Cut", run: strikeAround("after") },
  { id: "keep", keys: ["Shift+K"], name: "Keep only what is selected", group: "Cut", run: strikeAround("others") },
  { id: "part", keys: ["Y"], name: "Splice here, taking nothing out", group: "Cut", run: ({ edit }) => edit.operate({ kind: "part", at: Math.round(playhead()) }) },
  { id: "rest", keys: ["Shift+R"], name: "Insert a half-second rest here", group: "Cut", run: ({ edit }) => edit.operate({ kind: "rest", at: Math.round(playhead()), length: RATE / 2, silent: false }) },
  { id: "rest-length", keys: ["."], name: "Set the length of the rest here", group: "Cut", run: restHere },
  { id: "copy", keys: ["Control+C"], name: "Copy", group: "Cut", needs: "read", run: (scene) => void copy(scene, "copy") },
  { id: "cut", keys: ["Control+X"], name: "Cut (copy and lift)", group: "Cut", run: (scene) => void copy(scene, "cut") },
  { id: "collect", keys: ["Control+Shift+C"], name: "Add to what was copied", group: "Cut", run: (scene) => void copy(scene, "collect") },
  { id: "paste", keys: ["Control+V"], name: "Paste here", group: "Cut", run: (scene) => void paste(scene), offered: () => kept() !== null },
  { id: "undo", keys: ["Control+Z"], name: "Undo", group: "Cut", needs: "note", run: ({ edit }) => edit.undo() },
  { id: "redo", keys: ["Control+Shift+Z", "Control+Y"], name: "Redo", group: "Cut", needs: "note", run: ({ edit }) => edit.redo() },
  { id: "note", keys: ["Control+M"], name: "Add a note", group: "Correct and judge", needs: "note", run: () => desk().set({ panel: "note", draft: "" }) },
  { id: "suggest", keys: ["Shift+X"], name: "Suggest cutting the selection", group: "Correct and judge", needs: "note", run: suggest },
  { id: "lock", keys: ["Shift+Q"], name: "Lock the selection, or unlock what is locked there", group: "Cut", offered: () => desk().team, run: lock },
  { id: "retype", keys: ["Enter"], name: "Retype the selection", group: "Correct and judge", run: () => desk().set({ retyping: true }) },
  { id: "struck", keys: ["H"], name: "Hide or show struck words", group: "See", run: () => desk().set({ showStruck: !desk().showStruck }) },
  { id: "times", keys: ["Shift+M"], name: "Switch between programme time and recording time", group: "See", run: () => desk().set({ recordingTimes: !desk().recordingTimes }) },
  {
    id: "magnification",
    keys: ["M"],
    name: "Change the magnification",
    group: "See",
    run: () => desk().set({ magnification: MAGNIFICATIONS[(MAGNIFICATIONS.indexOf(desk().magnification) + 1) % 3] ?? "score" }),
  },
  { id: "zoom-in", keys: ["+", "="], name: "Fine: zoom in", group: "See", run: magnify(1) },
  { id: "zoom-out", keys: ["-"], name: "Fine: zoom out", group: "See", run: magnify(-1) },
  { id: "snap", keys: ["Shift+S"], name: "Fine: snapping on or off", group: "See", run: () => desk().set({ snapping: !desk().snapping }) },
  ...STAGES.map((stage, index) => ({
    id: `stage-${stage.id}`,
    keys: [`${index + 1}`],
    name: `To ${stage.name}`,
    group: "Open" as const,
    needs: stage.needs,
    run: () => desk().set({ stage: stage.id }),
  })),
  ...STAGES.flatMap(({ actions = [], needs }) => actions.map((action) => ({ ...(needs === "edit" && { needs }), ...action }))),
  { id: "notes", keys: ["Shift+T"], name: "Notes", group: "Open", run: panel("note-list") },
  { id: "history", keys: ["Control+H"], name: "History", group: "Open", run: panel("history") },
  { id: "editions", keys: ["Control+E"], name: "Editions", group: "Open", run: panel("editions") },
  { id: "palette", keys: ["Control+K"], name: "All actions", group: "Open", run: panel("palette") },
  { id: "keys", keys: ["?"], name: "Keys", group: "Open", run: panel("keys") },
];

const CHANGED = "jaskel.keys";

/** Keys that were changed, by action. */
export function changedKeys(): Record<string, string[]> {
  try {
    return JSON.parse(localStorage.getItem(CHANGED) ?? "{}") as Record<string, string[]>;
  } catch {
    return {};
  }
}

/** The keys of an action as they are now. */
export const keysFor = (action: Action): readonly string[] => changedKeys()[action.id] ?? action.keys;

/** Give an action other keys (none: its own again); gives the action that had them until now. */
export function changeKeys(action: Action, keys: string | null): Action | undefined {
  const changed = new Map(Object.entries(changedKeys()));
  const other = ACTIONS.find((each) => each.id !== action.id && keys !== null && keysFor(each).includes(keys));
  if (other) changed.set(other.id, keysFor(other).filter((each) => each !== keys));
  if (keys === null) changed.delete(action.id);
  else changed.set(action.id, [keys]);
  localStorage.setItem(CHANGED, JSON.stringify(Object.fromEntries(changed)));
  return other;
}

/** The keys of an event as the list writes them. */
export function keysOf(event: Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "shiftKey"> & { code?: string }): string {
  // What Shift makes of the digits differs from one keyboard to the next.
  const digit = event.shiftKey && /^Digit([1-6])$/.exec(event.code ?? "")?.[1];
  if (digit) return `${event.ctrlKey || event.metaKey ? "Control+" : ""}Shift+${digit}`;
  if (event.key.length === 1 && !/[a-z0-9 ]/i.test(event.key)) return event.key;
  const key = event.key === " " ? "Space" : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  return `${event.ctrlKey || event.metaKey ? "Control+" : ""}${event.shiftKey ? "Shift+" : ""}${key}`;
}

/** Keys as people read them. */
export const shown = (keys: string) => keys.replace("Control", "Ctrl").replaceAll("Arrow", "");

const TYPING = "input:not([type=checkbox], [type=radio], [type=range]), textarea, select, [contenteditable]";
/** A field in which nothing is being typed: Undo is about the edition, not about the field. */
const SETTLED = "[data-settled=true]";
const PRESSING = "button, a, input, [role=slider], [role=dialog], [role=menu]";

export function onKey(event: KeyboardEvent, scene: Scene) {
  const element = event.target instanceof Element ? event.target : null;
  if (event.defaultPrevented || event.altKey) return;
  const keys = keysOf(event);
  const action = ACTIONS.find((each) => keysFor(each).includes(keys));
  if (!action) return;
  const undoes = action.id === "undo" || action.id === "redo";
  if (element?.closest(TYPING) && !(undoes && element.closest(SETTLED))) return;
  // A focused button keeps its own keys.
  if (element?.closest(PRESSING) && ["Space", "Enter", "ArrowLeft", "ArrowRight", "ArrowUp", "ArrowDown", "Escape", "Home", "End"].includes(keys)) return;
  // What the browser brings from the clipboard comes with its own event, which tells whose it is.
  if (action.id === "paste") return;
  event.preventDefault();
  act(action, scene);
}

/** What somebody who may not cut suggests instead. */
const SUGGESTED = ["strike", "lift", "cut"];

/** Carries an action out, as the stage that is open would have it. */
export function act(action: Action, scene: Scene) {
  if (!allowed(action)) {
    if (SUGGESTED.includes(action.id) && may("note")) return suggest(scene);
    return desk().say("Your role in this show does not include that. Ask one of its owners.");
  }
  const stage = STAGES.find((each) => each.id === desk().stage);
  if (!stage?.instead?.[action.id]?.(scene)) action.run(scene);
}
