import { lazy, useMemo } from "react";
import { navigate } from "wouter/use-browser-location";
import { queryClient, type Episode, type Head, type PageWords } from "../../api/client";
import { hrefOf, keys } from "../../api/queries";
import { desk } from "../../desk/desk";
import { playhead } from "../../desk/place";
import type { Action } from "../../page/actions";
import { beginChapter } from "../../page/chapters";
import { GatheringTable } from "./GatheringTable";
import { NO_MARKS, type PageMark } from "../../page/marks";
import type { Stage } from "../../page/stage";
import { indexAt } from "../../page/tokens";
import { Article, FilmOfText, Notes, Summary } from "./texts";
import { proposalMarks, useProposals, useShown } from "./reuse";

function useMarks(head: Head): readonly PageMark[] {
  const kind = useShown((state) => state.kind);
  const found = useProposals(head, kind).data?.proposals;
  return useMemo(() => (found ? proposalMarks(found) : NO_MARKS), [found]);
}

const actions: readonly Action[] = [
  {
    id: "chapter",
    keys: ["Shift+C"],
    name: "Reuse: begin a chapter at the playhead",
    group: "Cut",
    run: ({ head, tokens }) => {
      const at = tokens.list[indexAt(tokens.list, playhead())];
      if (!at) return;
      desk().set({ stage: "reuse" });
      void beginChapter(head, at.at, "New chapter");
    },
  },
  {
    id: "article",
    keys: ["Shift+A"],
    name: "Reuse: open the article of what is said",
    group: "Open",
    run: () => desk().set({ panel: "article" }),
  },
  {
    id: "origin",
    keys: ["Shift+I"],
    name: "Reuse: show it in the episode it comes from",
    group: "Go",
    run: ({ head, tokens }) => {
      const index = indexAt(tokens.list, playhead());
      const [token, page] = [tokens.list[index], queryClient.getQueryData<PageWords>(keys.page(head.id, head.layout))];
      const recording = page?.passages[tokens.passage[index] ?? -1]?.recording;
      const home = recording && queryClient.getQueryData<Episode>(keys.episode(head.episode_id))?.homes[recording];
      if (!token || !recording || !home) return desk().say("This was recorded for this episode");
      navigate(hrefOf({ episode_id: home, recording_id: recording, at: Math.max(0, token.t) }));
    },
  },
  {
    id: "film",
    keys: [],
    name: "Reuse: make a film of a text",
    group: "Open",
    run: () => desk().set({ panel: "film" }),
  },
  {
    id: "gathering",
    keys: ["Shift+G"],
    name: "Reuse: open the gathering table",
    group: "Open",
    run: () => desk().set({ panel: "gathering" }),
  },
];

export const reuse: Stage = {
  id: "reuse",
  name: "Reuse",
  needs: "edit",
  Bench: lazy(() => import("./ReuseBench")),
  useMarks,
  lanes: { below: "hidden", above: "faint", between: "faint" },
  actions,
  panels: {
    gathering: { title: "Gathering table", Panel: GatheringTable },
    article: { title: "Article", Panel: Article },
    summary: { title: "Summary", Panel: Summary },
    notes: { title: "Notes", Panel: Notes },
    film: { title: "From a text to a film", Panel: FilmOfText },
  },
};
