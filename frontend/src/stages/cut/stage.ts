import { lazy } from "react";
import { desk } from "../../desk/desk";
import { target, type Action } from "../../page/actions";
import { COLOURS, markAsGood } from "../../page/Selects";
import type { Stage } from "../../page/stage";

const actions: readonly Action[] = [
  ...COLOURS.map(
    (colour, number): Action => ({
      id: `select-${colour}`,
      keys: [`Shift+${number + 1}`],
      name: `Mark as good, in ${colour}`,
      group: "Select",
      run: (scene) => {
        const stretch = target(scene);
        if (stretch) return void markAsGood(scene.head, [{ begin: stretch[0], end: stretch[1] }], colour);
      },
    }),
  ),
  {
    id: "only-selects",
    keys: ["Shift+O"],
    name: "Play only what is marked as good, on or off",
    group: "Listen",
    run: () => {
      const onlySelects = !desk().onlySelects;
      desk().set({ onlySelects });
      desk().say(onlySelects ? "Only what is marked as good is played" : "Everything is played");
    },
  },
];

export const cut: Stage = { id: "cut", name: "Cut", needs: "edit", begins: () => true, Bench: lazy(() => import("./CutBench")), lanes: { above: "faint" }, actions };
