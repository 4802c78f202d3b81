import { lazy } from "react";
import type { Action } from "../../page/actions";
import type { Stage } from "../../page/stage";
import { useAgain } from "./again";
import { compared } from "./compare";

const actions: readonly Action[] = [
  { id: "compare", keys: ["V"], name: "Sound: hear the voice with and without its chain", group: "Listen", run: () => compared().swap() },
  { id: "again", keys: ["G"], name: "Sound: hear the next line that could be said again here", group: "Listen", run: () => useAgain.getState().next() },
];

export const sound: Stage = {
  id: "sound",
  name: "Sound",
  needs: "edit",
  Bench: lazy(() => import("./SoundBench")),
  lanes: { above: "hidden", over: "faint" },
  actions,
};
