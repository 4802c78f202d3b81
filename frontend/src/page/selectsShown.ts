/** The selects that are shown, where they stand in an edition: drawn on the strip, and played alone where one wants that. */
import { useEffect, useMemo } from "react";
import type { Episode, PageWords } from "../api/client";
import { desk, useDesk } from "../desk/desk";
import { playhead, watchPlayhead } from "../desk/place";
import { player } from "../player/player";
import { placed } from "./standing";

export interface ShownSelect {
  begin: number;
  end: number;
  colour: Episode["selects"][number]["colour"];
}

const NONE: readonly ShownSelect[] = [];

/** In order of laid time. */
export function useShownSelects(page: PageWords | undefined, selects: Episode["selects"]): readonly ShownSelect[] {
  const colour = useDesk((state) => state.colour);
  return useMemo(() => {
    const shown = colour ? selects.filter((each) => each.colour === colour) : selects;
    if (!page || !shown.length) return NONE;
    return shown.flatMap((each) => placed(page.passages, each.id, each.recording, each.start, each.end).map(({ begin, end }) => ({ begin, end, colour: each.colour }))).sort((a, b) => a.begin - b.begin);
  }, [page, selects, colour]);
}

/** Where to go on from a place that is in no select: the next one in the direction of playing, null where there is none. */
export function onwards(selects: readonly ShownSelect[], at: number, backwards: boolean): number | null {
  if (selects.some((each) => each.begin <= at && at < each.end)) return at;
  if (backwards) return selects.findLast((each) => each.end <= at)?.end ?? null;
  return selects.find((each) => each.begin > at)?.begin ?? null;
}

/** While that is wanted, playing leaps from select to select, and stops after the last. */
export function useOnlySelects(selects: readonly ShownSelect[]) {
  const [only, playing] = [useDesk((state) => state.onlySelects), useDesk((state) => state.playing)];
  useEffect(() => {
    if (!only || !playing || !selects.length) return;
    let leapt = -1;
    return watchPlayhead(() => {
      const { backwards } = desk();
      const at = playhead();
      const next = onwards(selects, at, backwards > 0);
      if (next === at || next === leapt) return;
      if (next === null) return void setTimeout(() => desk().playing && player.pause());
      leapt = next;
      // Not from within the report of the place, which the leap would change.
      setTimeout(() => player.leap(backwards ? next - 1 : next));
    });
  }, [only, playing, selects]);
}
