/** All marks of a page in laid time: those of its material where that stands, those of its plan, and those of the stage. */
import { useMemo } from "react";
import type { Episode, Head, PageWords, Passage, Plan } from "../api/client";
import { toLaid } from "../player/places";
import { NO_MARKS, type PageMark, type Placed } from "./marks";
import { noteMark } from "./Notes";
import { selectMarks } from "./Selects";
import type { Source } from "./sources";

/** Where a stretch of a recording stands: in every passage that has words of it, from the first to the last. */
export function placed(passages: readonly Passage[], id: string, recording: string, start: number, end: number): Placed[] {
  return passages.flatMap((passage) => {
    if (passage.recording !== recording) return [];
    const inside = passage.tokens.filter((token) => token.t >= 0 && token.t + token.len / 2 >= start && token.t + token.len / 2 < end);
    const [first, last] = [inside[0], inside.at(-1)];
    if (!first || !last) return [];
    const toMaterial = (laid: number) => {
      const token = passage.tokens.findLast((each) => each.t >= 0 && each.at <= laid) ?? first;
      return Math.round(token.t + Math.min(laid - token.at, token.len));
    };
    return [{ id: `${id} ${passage.at}`, begin: first.at, end: last.at + last.len, toMaterial }];
  });
}

/** The splices of an edition, each before the word that follows it. */
const splices = (head: Head): PageMark[] => head.splices.map((at) => ({ id: `splice ${at}`, lane: "between", begin: at, end: at + 1, look: "splice" }));

/** What is seen, where that changes: one picture from beginning to end needs no lane. */
export function seen(plan: Plan | undefined, sources: ReadonlyMap<string, Source>): PageMark[] {
  const found: PageMark[] = [];
  if (!plan) return found;
  for (const { begin, until, recording, text } of plan.layers) {
    const name = recording ? (sources.get(recording)?.name ?? "picture") : (text ?? "card");
    const end = toLaid(plan, until - 1) + 1;
    const last = found.at(-1);
    // The same picture goes on behind a splice.
    if (last?.text === name) last.end = Math.max(last.end, end);
    else found.push({ id: `seen ${begin}`, lane: "above", begin: toLaid(plan, begin), end, look: recording ? "shot" : "card", text: name, label: `Seen: ${name}` });
  }
  return found.length > 1 ? found : [];
}

interface Of {
  page: PageWords;
  head: Head;
  episode: Episode;
  plan: Plan | undefined;
  sources: ReadonlyMap<string, Source>;
  /** The marks of the stage that is open. */
  marks: readonly PageMark[];
}

/** All of them, in order. */
export function useMarks({ page, head, episode, plan, sources, marks }: Of): readonly PageMark[] {
  const { notes, selects, id } = episode;
  const material = useMemo(() => {
    const { passages } = page;
    const edition = { episode_id: id };
    return [
      ...selects.flatMap((select) => placed(passages, select.id, select.recording, select.start, select.end).flatMap((at) => selectMarks(edition, select, at))),
      ...notes.flatMap((note) => stands(passages, note).map((at) => noteMark(id, note, at))),
    ];
  }, [page, notes, selects, id]);
  return useMemo(() => {
    const all = [...material, ...splices(head), ...seen(plan, sources), ...marks];
    return all.length ? all.sort((a, b) => a.begin - b.begin) : NO_MARKS;
  }, [material, head, plan, sources, marks]);
}

/** Where a note stands: beside the word at its place. */
const stands = (passages: readonly Passage[], note: Episode["notes"][number]): Placed[] =>
  passages.flatMap(({ recording, tokens, at }) => {
    const token = recording === note.recording ? tokens.find(({ t, len }) => t >= 0 && note.at >= t && note.at < t + len) : undefined;
    return token ? [{ id: `${note.id} ${at}`, begin: token.at, end: token.at + token.len, toMaterial: () => note.at }] : [];
  });
