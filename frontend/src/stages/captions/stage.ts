import { lazy, useMemo } from "react";
import type { Head } from "../../api/client";
import { desk } from "../../desk/desk";
import { here } from "../../desk/place";
import type { Action } from "../../page/actions";
import type { Edit } from "../../page/edit";
import { NO_MARKS, type PageMark } from "../../page/marks";
import type { Scene } from "../../page/scene";
import type { Stage } from "../../page/stage";
import { indexAt, type Tokens } from "../../page/tokens";
import { breakAt, cueMarks, stepOn, useCues } from "./cues";

function useMarks(head: Head, _tokens: Tokens, edit: Edit): readonly PageMark[] {
  const cues = useCues(head.id, head.revision, head.layout).data?.cues;
  return useMemo(() => (cues ? cueMarks(cues, edit) : NO_MARKS), [cues, edit]);
}

const actions: readonly Action[] = [
  {
    id: "fault",
    keys: ["D"],
    name: "Captions: go to the next one that something is wrong with",
    group: "Go",
    run: (scene) => {
      if (desk().stage !== "captions") desk().set({ stage: "captions" });
      stepOn(scene, here().cursor);
    },
  },
];

/** What Enter and Delete do here, at the word at the playhead; what is selected is struck as everywhere. */
const breaks =
  (before: "cue" | "line" | "together") =>
  ({ edit, tokens }: Scene) => {
    if (here().selection) return false;
    breakAt(edit, tokens.list[indexAt(tokens.list, here().cursor)]?.at ?? 0, before);
    return true;
  };

const instead: Stage["instead"] = { retype: breaks("cue"), "hear-alone": breaks("line"), strike: breaks("together") };

export const captions: Stage = {
  id: "captions",
  name: "Captions",
  needs: "captions",
  Bench: lazy(() => import("./CaptionsBench")),
  Overlay: lazy(() => import("./Overlay")),
  useMarks,
  lanes: { below: "hidden", above: "faint" },
  actions,
  instead,
};
