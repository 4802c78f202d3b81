/** Chapters: the title of each stands above the word with which it begins. */
import { author } from "../api/author";
import { client, got, type Episode, type Head } from "../api/client";
import type { PageMark, Placed } from "./marks";
import { changeMarks } from "./Selects";

export type Chapter = Episode["chapters"][number];

const of = (episode_id: string, chapter: Chapter) => ({ path: { episode_id, mark_id: chapter.id } });

export const beginChapter = (head: Pick<Head, "id" | "episode_id">, laid: number, title: string) =>
  changeMarks(
    () => got(client.POST("/api/episodes/{episode_id}/chapters", { params: { path: { episode_id: head.episode_id } }, body: { edition: head.id, laid: Math.round(laid), title, ...author() } })),
    `Began the chapter “${title}”`,
  );

export const nameChapter = (episode: string, chapter: Chapter, title: string) =>
  changeMarks(() => got(client.PATCH("/api/episodes/{episode_id}/chapters/{mark_id}", { params: of(episode, chapter), body: { title, edition: null, laid: null, ...author() } })), `Named the chapter “${title}”`);

export const moveChapter = (head: Pick<Head, "id" | "episode_id">, chapter: Chapter, laid: number) =>
  changeMarks(
    () => got(client.PATCH("/api/episodes/{episode_id}/chapters/{mark_id}", { params: of(head.episode_id, chapter), body: { title: null, edition: head.id, laid: Math.round(laid), ...author() } })),
    `Moved the chapter “${chapter.title}”`,
  );

export const joinChapter = (episode: string, chapter: Chapter) =>
  changeMarks(
    () => got(client.DELETE("/api/episodes/{episode_id}/chapters/{mark_id}", { params: { ...of(episode, chapter), query: author() } })),
    `Joined “${chapter.title}” to the chapter before it`,
  );

/** The mark of a chapter: its title stands above the word with which it begins. */
export const chapterMark = (head: Pick<Head, "id" | "episode_id">, chapter: Chapter, { id, begin, end }: Placed): PageMark => ({
  id,
  lane: "above",
  begin,
  end,
  look: "chapter",
  text: chapter.title,
  label: `Chapter: ${chapter.title}`,
  selects: { anchor: begin, focus: end - 1 },
  begins: (laid) => moveChapter(head, chapter, laid),
});
