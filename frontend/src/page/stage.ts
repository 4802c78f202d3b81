/**
 * What a stage is to everything else. A stage is a module of `stages/` that describes itself in these words and is named in
 * `stages/index.ts`; nothing else knows it. Its bench is loaded when it is first opened.
 */
import type { ComponentType, LazyExoticComponent } from "react";
import type { Episode, Head, PageWords, Plan, Voice } from "../api/client";
import type { Action } from "./actions";
import type { Edit } from "./edit";
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

/** How a word looks that a stage has something to say about. */
export interface TokenMark {
  className: string;
  /** A sign before it that can be chosen by itself. */
  sign?: { text: string; label: string; title: string; at: number; choose: () => void };
}

/** What a stage draws over the words, by the place of the token. */
export type Layer = ReadonlyMap<number, TokenMark>;

export interface Stage {
  id: string;
  name: string;
  /** Whether an episode is best begun here; the first stage that says so is opened, where none was left open. */
  begins?: (episode: Episode) => boolean;
  /** What it does with files that are dropped anywhere in the window; one stage takes them. */
  receive?: (episode: Episode, files: readonly File[]) => void;
  Bench: LazyExoticComponent<ComponentType<BenchProps>>;
  /** What it draws over the words while it is open. */
  useLayer?: (head: Head, tokens: Tokens) => Layer;
  /** What can be done in it, from every stage. */
  actions?: readonly Action[];
  /** What actions of others do while it is open: true where that is all. */
  instead?: Readonly<Record<string, (scene: Scene) => boolean>>;
  /** What it opens over the page, by id. */
  panels?: Readonly<Record<string, { title: string; Panel: ComponentType<{ scene: Scene }> }>>;
}

export const NOTHING: Layer = new Map();
