/** Judging findings: which one is looked at, and what is done with it. Shared by the bench and the keys. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { client, got, queryClient } from "../../api/client";
import { keys } from "../../api/queries";
import type { SchemaFindingOut as Finding, SchemaFindingsOut as Findings } from "../../api/schema";
import { failed } from "../../desk/desk";
import { here, playhead, select, usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { player } from "../../player/player";

export type { Finding, Findings };
export type Kind = Finding["kind"];

export const KINDS: readonly (readonly [Kind, string])[] = [
  ["filler", "Fillers"],
  ["voice without words", "Voice without words"],
  ["doubled", "Words said twice"],
  ["empty word", "Empty words?"],
  ["long rest", "Long rests"],
  ["retake", "Retakes"],
  ["chatter", "Chatter, remarks"],
];

/** Listed where the show wants breaths softened. */
export const BREATHS = ["breath", "Breaths"] as const satisfies readonly [Kind, string];

interface Judging {
  /** Which kinds are listed. */
  kind: Kind | "all";
  /** Only findings that say this, such as “um”. */
  filter: string;
  /** Whether judged ones are listed, too. */
  judged: boolean;
  /** Takes that were picked instead of the proposed ones, by finding. */
  picks: Readonly<Record<string, number>>;
  set: (change: Partial<Omit<Judging, "set">>) => void;
}

export const useJudging = create<Judging>((set) => ({ kind: "all", filter: "", judged: false, picks: {}, set: (change) => set(change) }));
export const judging = useJudging.getState;

export const useFindings = (edition: string, revision: number, enabled = true) =>
  useQuery({
    enabled,
    queryKey: keys.findings(edition, revision),
    queryFn: () => got(client.GET("/api/editions/{edition_id}/findings", { params: { path: { edition_id: edition } } })),
    placeholderData: (known) => known,
    gcTime: 30_000,
  });

export const pickOf = (finding: Finding) => (finding.state === "accepted" ? finding.pick : (judging().picks[finding.id] ?? finding.pick));

export function pickTake(finding: Finding, number: number) {
  judging().set({ picks: { ...judging().picks, [finding.id]: number } });
}

/** What the list shows, in reading order. */
export function listed(all: readonly Finding[]): Finding[] {
  const { kind, filter, judged } = judging();
  const wanted = filter.trim().toLocaleLowerCase();
  return all.filter((each) => (kind === "all" || each.kind === kind) && (judged || each.state === "open") && (!wanted || each.text.toLocaleLowerCase().includes(wanted)));
}

/** Those of them that one tick takes: what is large, or may be meant, is judged by itself. */
export const together = (findings: readonly Finding[]) => findings.filter((each) => each.state === "open" && !each.large && !each.twice);

/** The id of the finding that is judged: the one that is selected. */
export const useCurrent = () => usePlace((state) => state.selection?.of ?? null);

export const selectionOf = ({ id, begin, end }: Finding) => ({ anchor: begin, focus: end, exact: true, of: id });

/** Look at a finding: the page goes there and selects it. */
export function lookAt(finding: Finding | undefined, reveal: (laid: number) => void) {
  if (!finding) return select(null);
  select(selectionOf(finding));
  player.seek(finding.begin);
  reveal(finding.begin);
}

/** The laid ranges that go when a finding is accepted; of a breath, which only gets softer, nothing does. */
export function going(finding: Finding): (readonly [number, number])[] {
  if (finding.kind === "breath") return [];
  if (!finding.takes.length) return [[finding.begin, finding.end]];
  return finding.takes.filter((_, number) => number !== pickOf(finding)).map((take) => [take.begin, take.end] as const);
}

/** Shows how findings were judged before the server has answered, so that one key can follow the other. */
function show(edition: string, findings: readonly Finding[], state: Finding["state"]) {
  const ids = new Set(findings.map((each) => each.id));
  queryClient.setQueriesData<Findings>({ queryKey: ["findings", edition] }, (old) => old && { ...old, findings: old.findings.map((each) => (ids.has(each.id) ? { ...each, state } : each)) });
}

export function accept(edition: string, edit: Edit, findings: readonly Finding[]) {
  const open = findings.filter((each) => each.state !== "accepted");
  if (!open.length) return;
  show(edition, open, "accepted");
  edit.operate({ kind: "tidy", findings: open.map((each) => ({ id: each.id, pick: each.takes.length ? pickOf(each) : null })) });
}

/** Put an accepted finding back: it is open again. */
export function reopen(edit: Edit, finding: Finding) {
  if (finding.kind === "breath") edit.operate({ kind: "adjust", begin: finding.begin, end: finding.end, track: null, decibels: 0 });
  else edit.putBack([[finding.begin, finding.end]]);
}

export async function refuse(edition: string, findings: readonly Finding[], refused = true) {
  try {
    show(edition, findings, refused ? "refused" : "open");
    const body = { findings: findings.map((each) => each.id), refused };
    const after = await got(client.POST("/api/editions/{edition_id}/refusals", { params: { path: { edition_id: edition } }, body }));
    queryClient.setQueryData(keys.findings(edition, after.revision), after);
  } catch (error) {
    failed(error);
  }
}

/** The findings of an edition as they are known now. */
export function known(edition: string): readonly Finding[] {
  const all = queryClient.getQueriesData<Findings>({ queryKey: ["findings", edition] });
  return all.reduce<Findings | undefined>((best, [, each]) => (each && (!best || each.revision >= best.revision) ? each : best), undefined)?.findings ?? [];
}

/** The finding after (or before) the one that is looked at, among those that are listed. */
export function neighbour(list: readonly Finding[], way: 1 | -1): Finding | undefined {
  const index = list.findIndex((each) => each.id === here().selection?.of);
  if (index >= 0) return list[index + way] ?? list[way > 0 ? 0 : list.length - 1];
  const at = playhead();
  return way > 0 ? (list.find((each) => each.begin >= at) ?? list[0]) : (list.findLast((each) => each.begin < at) ?? list.at(-1));
}
