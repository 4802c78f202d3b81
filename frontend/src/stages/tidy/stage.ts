import { lazy, useMemo } from "react";
import type { Head } from "../../api/client";
import { RATE } from "../../api/time";
import { desk, failed } from "../../desk/desk";
import type { Action } from "../../page/actions";
import type { Scene } from "../../page/scene";
import { NO_MARKS, type PageMark } from "../../page/marks";
import type { Stage } from "../../page/stage";
import { indexAt, type Tokens } from "../../page/tokens";
import { player } from "../../player/player";
import { accept, going, known, listed, lookAt, neighbour, pickOf, pickTake, refuse, reopen, selectionOf, useFindings, type Finding } from "./judging";
import { TakesPanel } from "./TakesPanel";
import { here } from "../../desk/place";

/** What waits to be judged is marked on its words. */
function useMarks(head: Head, tokens: Tokens): readonly PageMark[] {
  const findings = useFindings(head.id, head.revision).data?.findings;
  return useMemo(() => (findings ? marked(tokens, findings) : NO_MARKS), [findings, tokens]);
}

/** Open findings on the words they are about. */
export function marked(tokens: Tokens, findings: readonly Finding[]): readonly PageMark[] {
  return findings
    .filter((finding) => finding.state === "open")
    .flatMap((finding) => (finding.kind === "voice without words" ? voiced(tokens, finding) : going(finding).map(([begin, end]) => ({ id: `${finding.id} ${begin}`, lane: "over" as const, begin, end, look: "found" }))));
}

/** Voice where the transcript has nothing: it can be selected, heard, struck, or given a word. */
function voiced(tokens: Tokens, finding: Finding): PageMark[] {
  const token = tokens.list[indexAt(tokens.list, finding.begin)];
  if (!token) return [];
  return [
    {
      id: finding.id,
      lane: "between",
      begin: token.at,
      end: token.at + token.len,
      look: "voice",
      text: "∿",
      label: `Voice without words, ${(finding.goes / RATE).toFixed(1)} s. Enter gives it a word, Delete strikes it`,
      selects: selectionOf(finding),
    },
  ];
}

const looked = ({ head }: Scene) => known(head.id).find((each) => each.id === here().selection?.of);

/** Keys judge the finding that is looked at; without one, the next is looked at first. */
const judge = (act: (finding: Finding, scene: Scene) => void) => (scene: Scene) => {
  const list = listed(known(scene.head.id));
  const finding = looked(scene);
  if (!finding) return lookAt(neighbour(list, 1), scene.reveal);
  const next = neighbour(list, 1);
  act(finding, scene);
  lookAt(next?.id === finding.id ? undefined : next, scene.reveal);
};

const nextFinding = (way: 1 | -1) => (scene: Scene) => {
  if (desk().stage !== "tidy") desk().set({ stage: "tidy" });
  lookAt(neighbour(listed(known(scene.head.id)), way), scene.reveal);
};

const pickNext = (scene: Scene) => {
  const finding = looked(scene);
  if (finding?.takes.length && finding.state === "open") pickTake(finding, (pickOf(finding) + 1) % finding.takes.length);
};

const actions: readonly Action[] = [
  { id: "next-finding", keys: ["F"], name: "Next finding", group: "Go", run: nextFinding(1) },
  { id: "finding-before", keys: ["Shift+F"], name: "Previous finding", group: "Go", run: nextFinding(-1) },
  { id: "refuse", keys: ["X"], name: "Refuse the finding", group: "Correct and judge", run: judge((finding, { head }) => void refuse(head.id, [finding])) },
  { id: "pick-take", keys: ["C"], name: "Choose the next take", group: "Correct and judge", run: pickNext },
];

/** What other keys do while one tidies: they are about the finding that is looked at. */
const instead: Stage["instead"] = {
  accept: (scene) => {
    judge((finding) => accept(scene.head.id, scene.edit, [finding]))(scene);
    return true;
  },
  try: (scene) => {
    const finding = looked(scene);
    if (finding?.state !== "open" || finding.kind === "breath") return false;
    void player.tryWithout(going(finding)).catch(failed);
    return true;
  },
  "put-back": (scene) => {
    const finding = looked(scene);
    if (finding?.state !== "accepted") return false;
    reopen(scene.edit, finding);
    return true;
  },
};

export const tidy: Stage = {
  id: "tidy",
  name: "Tidy",
  needs: "edit",
  Bench: lazy(() => import("./TidyBench")),
  useMarks,
  lanes: { above: "hidden" },
  actions,
  instead,
  panels: { takes: { title: "Takes", Panel: TakesPanel } },
};
