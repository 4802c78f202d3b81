/** What can be done to the shot at the playhead by key. */
import { queryClient } from "../../api/client";
import { desk } from "../../desk/desk";
import { here } from "../../desk/place";
import type { Action } from "../../page/actions";
import type { Scene } from "../../page/scene";
import { choose, shotsNow, type Shot } from "../../page/shots";
import { selected } from "../../page/tokens";

/** The shot at the playhead, the one before it, and the range that is meant: what is selected, else the shot. */
async function at({ head, tokens }: Scene) {
  const { cursor, selection } = here();
  const known = await shotsNow(queryClient, head);
  const index = Math.max(0, known.shots.findLastIndex((each) => each.begin <= cursor));
  const shot = known.shots[index];
  const words = selected(tokens.list, selection);
  return shot ? { known, shot, before: known.shots[index - 1], range: words ? { begin: words[0], end: words[1] } : shot } : null;
}

/** Everybody who has a camera, those of the shot first. */
export const everybody = ({ voices }: Pick<Shot, "voices">, seen: readonly string[]) => [...voices, ...seen.filter((voice) => !voices.includes(voice))];

export const actions: readonly Action[] = [
  {
    id: "shot-all",
    keys: ["E"],
    name: "Picture: show everybody in this shot, or follow again",
    group: "See",
    run: async (scene) => {
      const found = await at(scene);
      if (!found) return;
      const { shot, known, range } = found;
      if (known.seen.length < 2) return desk().say("Only one voice has a camera of its own.");
      if (shot.by_hand && shot.voices.length > 1) choose(scene.edit, [range], null);
      else choose(scene.edit, [range], "side by side", everybody(shot, known.seen).slice(0, 4));
    },
  },
  {
    id: "shot-hide",
    keys: ["Shift+E"],
    name: "Picture: hide this shot, so that the one before goes on",
    group: "See",
    run: async (scene) => {
      const found = await at(scene);
      if (found?.before) choose(scene.edit, [found.range], found.before.framing, found.before.voices);
      else desk().say("No shot is before this one.");
    },
  },
  {
    id: "closer",
    keys: ["Z"],
    name: "Picture: come closer here, or as it was",
    group: "See",
    run: async (scene) => {
      const found = await at(scene);
      if (!found) return;
      const { range, known } = found;
      const is = known.closer.some((each) => each.begin < range.end && each.end > range.begin);
      scene.edit.operate({ kind: "punch in", ranges: [{ begin: range.begin, end: range.end }], percent: is ? 0 : 15, slowly: false });
    },
  },
];
