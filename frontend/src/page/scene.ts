import type { Head, Plan } from "../api/client";
import type { Edit } from "./edit";
import type { Tokens } from "./tokens";

/** What an action finds: the page, how it is changed, and how one gets about in it. */
export interface Scene {
  tokens: Tokens;
  head: Head;
  edit: Edit;
  reveal: (laid: number) => void;
  plan: Plan | undefined;
}
