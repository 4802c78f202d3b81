/** All marks of a page in laid time: those of its material where that stands, those of its plan, and those of the stage. */
import { useQueries } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Episode, Head, PageWords, Plan } from "../api/client";
import { peaksQuery } from "../api/queries";
import { RATE } from "../api/time";
import { useDesk } from "../desk/desk";
import { useMay } from "../desk/rights";
import { toLaid } from "../player/places";
import { inRows, NO_MARKS, type PageMark } from "./marks";
import { bedMarks } from "./beds";
import { cutawayMarks } from "./cutaways";
import { graphicMarks } from "./graphics";
import type { Edit } from "./edit";
import { chapterMark } from "./chapters";
import { cutsOf, noteMarks } from "./Notes";
import { selectMarks } from "./Selects";
import { placed, stands } from "./standing";
import { personMark } from "./People";
import { useOthers } from "./presence";
import { shotMarks, useShots } from "./shots";

/** The splices of an edition, each before the word that follows it. */
const splices = (head: Head): PageMark[] => head.splices.map((at) => ({ id: `splice ${at}`, lane: "between", begin: at, end: at + 1, look: "splice" }));

/** Breaks for advertising, above the word that follows. */
const breaks = (head: Head): PageMark[] => head.breaks.map(({ id, laid, length }) => ({ id, lane: "above", begin: laid, end: laid + RATE, look: "chapter", text: "Break", label: `Break of ${(length / RATE).toFixed(1)} s` }));

/** Cards, and pictures of words, between what cameras show. */
export function cardMarks(plan: Plan | undefined): PageMark[] {
  const found: PageMark[] = [];
  for (const { begin, until, views, text } of plan?.layers ?? []) {
    if (!plan || views.length) continue;
    const name = text ?? "card";
    const end = toLaid(plan, until - 1) + 1;
    const last = found.at(-1);
    // The same picture goes on behind a splice.
    if (last?.text === name && toLaid(plan, begin) <= last.end) last.end = Math.max(last.end, end);
    else found.push({ id: `card ${begin}`, lane: "above", begin: toLaid(plan, begin), end, look: "card", text: name, label: `Seen: ${name}` });
  }
  return found;
}

/** The same mark, to be looked at alone. */
function fixed(mark: PageMark): PageMark {
  const still = { ...mark };
  delete still.resize;
  delete still.begins;
  delete still.move;
  return still;
}

/** Passages that somebody has locked. */
const lockMarks = (head: Head): PageMark[] =>
  head.locks.flatMap(({ id, ranges, who, mine }) =>
    ranges.flatMap(([begin = 0, end = 0]): PageMark[] => [
      { id: `lock ${id} ${begin}`, lane: "over", begin, end, look: mine ? "locked mine" : "locked", label: lockedBy(who, mine) },
      { id: `locked ${id} ${begin}`, lane: "margin", begin, end, look: "lock", label: lockedBy(who, mine), selects: { anchor: begin, focus: end - 1 } },
    ]),
  );

const lockedBy = (who: string, mine: boolean) => (mine ? "Locked by you" : `Locked by ${who}`);

interface Of {
  page: PageWords;
  head: Head;
  episode: Episode;
  plan: Plan | undefined;
  /** The marks of the stage that is open. */
  marks: readonly PageMark[];
  edit: Edit;
}

/** All of them, in order. */
export function useMarks({ page, head, episode, plan, marks, edit }: Of): readonly PageMark[] {
  const { notes, selects, chapters, id, people } = episode;
  const edition_id = head.id;
  const colour = useDesk((state) => state.colour);
  const material = useMemo(() => {
    const { passages } = page;
    const edition = { episode_id: id };
    const shown = colour ? selects.filter((each) => each.colour === colour) : selects;
    return [
      ...shown.flatMap((select) => placed(passages, select.id, select.recording, select.start, select.end).flatMap((at) => selectMarks(edition, select, at))),
      ...notes.flatMap((note) => stands(passages, note).flatMap((at) => noteMarks({ episode: { id, people }, edit, cuts: cutsOf(note, page) }, note, at))),
      ...chapters.flatMap((chapter) => stands(passages, chapter).map((at) => chapterMark({ id: edition_id, episode_id: id }, chapter, at))),
    ];
  }, [page, notes, selects, colour, chapters, id, edition_id, people, edit]);
  const music = useMemo(() => [...new Set(head.beds.map((bed) => bed.recording))], [head.beds]);
  const loud = useQueries({ queries: music.map(peaksQuery), combine: (all) => all.map((query) => query.data) });
  const shots = useShots(head);
  const seen = useMemo(() => {
    const found = [...cardMarks(plan), ...shotMarks(shots, episode.voices, edit)];
    // One picture from beginning to end needs no lane.
    const shown = found.length > 1 ? found : [];
    return [...shown, ...inRows([...cutawayMarks(head, edit), ...graphicMarks(head, edit)], shown.length ? 1 : 0)];
  }, [plan, shots, episode.voices, edit, head]);
  const edits = useMay("edit");
  const others = useOthers(edition_id);
  const present = useMemo(() => others.map(personMark), [others]);
  const known = loud.filter(Boolean).length;
  // eslint-disable-next-line react-hooks/exhaustive-deps -- `known` stands for the envelopes, which are a new list at every render
  const peaks = useMemo(() => new Map(music.flatMap((name, index): [string, Uint8Array][] => (loud[index] ? [[name, loud[index]]] : []))), [music, known]);
  return useMemo(() => {
    const known = [...belowSeen([...material, ...breaks(head)], seen), ...splices(head), ...seen, ...bedMarks(head, plan, edit, peaks)];
    // Who may not edit is offered no ends to drag.
    const all = [...(edits ? known : known.map(fixed)), ...lockMarks(head), ...present, ...marks];
    return all.length ? all.sort((a, b) => a.begin - b.begin) : NO_MARKS;
  }, [material, head, plan, seen, marks, edit, peaks, edits, present]);
}

/** The titles of chapters stand nearest to the words, below what is seen there. */
const belowSeen = (material: readonly PageMark[], seen: readonly PageMark[]): readonly PageMark[] =>
  material.map((mark) => (mark.lane === "above" ? { ...mark, row: Math.max(-1, ...seen.filter((each) => each.lane === "above" && each.begin < mark.end && each.end > mark.begin).map((each) => each.row ?? 0)) + 1 } : mark));
