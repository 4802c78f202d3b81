import { lazy } from "react";
import { desk } from "../../desk/desk";
import { target, type Action } from "../../page/actions";
import { places } from "../../page/find";
import { stepTo } from "../../page/go";
import type { Scene } from "../../page/scene";
import type { Stage } from "../../page/stage";
import { focusFind } from "./findField";

const findWords = () => {
  desk().set({ stage: "read" });
  focusFind();
};

const unsure = (way: 1 | -1) => (scene: Scene) => stepTo(places("unsure", scene.tokens, scene.head), way, scene.reveal);

const passage = (begins: boolean) => (scene: Scene) => {
  const range = target(scene);
  if (range) scene.edit.operate({ kind: "passage", at: range[0], begins });
};

const accept = (scene: Scene) => {
  const range = target(scene);
  if (range) scene.edit.operate({ kind: "accept", begin: range[0], end: range[1] });
};

/** Whether some word of the selection is unsure. */
const doubtful = (scene: Scene) => {
  const range = target(scene);
  return range !== null && places("unsure", scene.tokens, scene.head).some(([begin, end]) => begin < range[1] && end > range[0]);
};

const actions: readonly Action[] = [
  { id: "find", keys: ["Control+F"], name: "Find words", group: "Go", run: findWords },
  { id: "unsure", keys: ["U"], name: "Next unsure word", group: "Go", run: unsure(1) },
  { id: "unsure-before", keys: ["Shift+U"], name: "Previous unsure word", group: "Go", run: unsure(-1) },
  { id: "accept", keys: ["A"], name: "Accept the unsure word or the finding", group: "Correct and judge", run: accept, offered: doubtful },
  { id: "begin-passage", keys: ["P"], name: "Start a passage here", group: "Correct and judge", run: passage(true) },
  { id: "run-on", keys: ["Shift+P"], name: "Join to the passage before", group: "Correct and judge", run: passage(false) },
];

export const read: Stage = { id: "read", name: "Read", needs: "words", Bench: lazy(() => import("./ReadBench")), lanes: { above: "hidden" }, actions };
