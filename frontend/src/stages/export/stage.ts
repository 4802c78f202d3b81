import { lazy } from "react";
import { desk } from "../../desk/desk";
import type { Action } from "../../page/actions";
import type { Scene } from "../../page/scene";
import type { Stage } from "../../page/stage";
import { again, pass, skip, useListening } from "./lastListen";

const listening = () => useListening.getState().at !== null;

/** What a key does while a place is heard; otherwise it does what it does everywhere. */
const whileListening = (act: (scene: Scene) => void) => (scene: Scene) => {
  if (!listening()) return false;
  act(scene);
  return true;
};

const begin = (scene: Scene) => {
  desk().set({ stage: "export" });
  again(scene);
};

const actions: readonly Action[] = [{ id: "last-listen", keys: ["Shift+H"], name: "Last listen: hear the likeliest places", group: "Listen", run: begin }];

export const exporting: Stage = {
  id: "export",
  name: "Export",
  needs: "export text",
  Bench: lazy(() => import("./ExportBench")),
  actions,
  instead: { accept: whileListening(pass), "hear-alone": whileListening(again), "next-splice": whileListening(skip) },
};
