import { lazy, useMemo } from "react";
import type { Head } from "../../api/client";
import { RATE } from "../../api/time";
import { desk, failed } from "../../desk/desk";
import type { Action } from "../../page/actions";
import type { Scene } from "../../page/scene";
import { NOTHING, type Layer, type Stage, type TokenMark } from "../../page/stage";
import { indexAt, type Tokens } from "../../page/tokens";
import { player } from "../../player/player";
import { accept, going, known, listed, lookAt, neighbour, pickOf, pickTake, refuse, reopen, useFindings, type Finding } from "./judging";
import { TakesPanel } from "./TakesPanel";
import { here } from "../../desk/place";

/** What waits to be judged is marked on its words. */
function useLayer(head: Head, tokens: Tokens): Layer {
  const findings = useFindings(head.id, head.revision).data?.findings;
  return useMemo(() => (findings ? marked(tokens, findings) : NOTHING), [findings, tokens]);
}

/** Open findings by the tokens they are about, each by its place. */
export function marked(tokens: Tokens, findings: readonly Finding[]): Layer {
  const found = new Map<number, TokenMark>();
  for (const finding of findings) {
    if (finding.state !== "open") continue;
    const unspoken = finding.kind === "voice without words";
    for (const [begin, end] of going(finding)) {
      for (let i = indexAt(tokens.list, begin); i < tokens.list.length; i++) {
        const token = tokens.list[i];
        if (!token || token.at >= end) break;
        const shared = Math.min(end, token.at + token.len) - Math.max(begin, token.at);
        if (2 * shared >= token.len || unspoken) found.set(token.at, unspoken ? { className: "found", sign: signOf(finding) } : FOUND);
      }
    }
  }
  return found;
}

const FOUND: TokenMark = { className: "found" };

/** Voice where the transcript has nothing: it can be selected, heard, struck, or given a word. */
const signOf = (finding: Finding) => ({
  text: "∿",
  label: `Voice without words, ${(finding.goes / RATE).toFixed(1)} s`,
  title: "Voice, but no word was recognised. Click to select it; Enter gives it a word, Delete strikes it.",
  at: finding.begin,
  choose: () => lookAt(finding, () => undefined),
});

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
  Bench: lazy(() => import("./TidyBench")),
  useLayer,
  actions,
  instead,
  panels: { takes: { title: "Takes", Panel: TakesPanel } },
};
