/**
 * What a stage is to everything else. A stage is a module of `stages/` that describes itself in these words and is named in
 * `stages/index.ts`; nothing else knows it. Its bench is loaded when it is first opened.
 */
import type { ComponentType, LazyExoticComponent } from "react";
import type { Episode, Head, PageWords, Plan, Voice } from "../api/client";
import type { Right } from "../desk/rights";
import type { Action } from "./actions";
import type { Edit } from "./edit";
import type { PageMark, Strengths } from "./marks";
import type { Scene } from "./scene";
import type { Source } from "./sources";
import type { Tokens } from "./tokens";

/** What a bench works with. Head and page are there once the edition is. */
export interface BenchProps {
  episode: Episode;
  head: Head | undefined;
  page: PageWords | undefined;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  plan: Plan | undefined;
  edit: Edit;
  reveal: (laid: number) => void;
}

export interface Stage {
  id: string;
  name: string;
  /** What one must be allowed to for it to be offered. */
  needs: Right;
  /** Whether an episode is best begun here; the first stage that says so is opened, where none was left open. */
  begins?: (episode: Episode) => boolean;
  /** What it does with files that are dropped anywhere in the window; one stage takes them. */
  receive?: (episode: Episode, files: readonly File[]) => void;
  Bench: LazyExoticComponent<ComponentType<BenchProps>>;
  /** The marks it draws while it is open. */
  useMarks?: (head: Head, tokens: Tokens, edit: Edit) => readonly PageMark[];
  /** What it draws over the monitor's picture while it is open. */
  Overlay?: LazyExoticComponent<ComponentType<{ head: Head; edit: Edit }>>;
  /** How much the lanes matter to it; what it does not name is strong. */
  lanes?: Partial<Strengths>;
  /** What can be done in it, from every stage. */
  actions?: readonly Action[];
  /** What actions of others do while it is open: true where that is all. */
  instead?: Readonly<Record<string, (scene: Scene) => boolean>>;
  /** What it opens over the page, by id. */
  panels?: Readonly<Record<string, { title: string; Panel: ComponentType<{ scene: Scene }> }>>;
}
