import { lazy } from "react";
import { desk } from "../../desk/desk";
import type { Stage } from "../../page/stage";
import { add } from "./upload";

export const gather: Stage = {
  id: "gather",
  name: "Gather",
  needs: "edit",
  begins: (episode) => episode.recordings.length === 0,
  receive: (episode, files) => {
    desk().set({ stage: "gather" });
    add(episode.id, files);
  },
  Bench: lazy(() => import("./GatherBench")),
  lanes: { above: "faint" },
};
