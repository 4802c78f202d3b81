/** What can be done by key or by name. The palette and the sheet of keys are made from lists of these. */
import { here, playhead } from "../desk/place";
import { may, type Right } from "../desk/rights";
import type { Scene } from "./scene";
import { indexAt, selected } from "./tokens";

export interface Action {
  id: string;
  /** As long as nobody has changed them; the first is shown. */
  keys: readonly string[];
  name: string;
  /** What one wants to do with it: where it stands on the sheet of keys. */
  group: Group;
  run: (scene: Scene) => void | Promise<void>;
  /** What one must be allowed to; where it is not said, that follows from its group. */
  needs?: Right;
  /** Whether a menu offers it now; most always are. */
  offered?: (scene: Scene) => boolean;
}

const NEEDED: Partial<Record<Group, Right>> = { Cut: "edit", "Correct and judge": "words" };

/** Whether whoever sits here may do it. */
export function allowed({ needs, group }: Action): boolean {
  const right = needs ?? NEEDED[group];
  return !right || may(right);
}

export const GROUPS = ["Listen", "Go", "Select", "Cut", "Correct and judge", "See", "Open"] as const;
export type Group = (typeof GROUPS)[number];

/** What is selected, or the word at the playhead. */
export function target(scene: Scene): [number, number] | null {
  const picked = selected(scene.tokens.list, here().selection);
  if (picked) return picked;
  const token = scene.tokens.list[indexAt(scene.tokens.list, playhead())];
  return token ? [token.at, token.at + token.len] : null;
}
