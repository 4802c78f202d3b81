/** Beginning an episode with what one has: files that are dropped or chosen. */
import { useDropzone } from "react-dropzone";
import { useLocation } from "wouter";
import { client, got, type Episode } from "../../api/client";
import { STAGES } from "../../stages";

/** A title from the name of the first file: without its ending, with spaces where a file has underscores or hyphens. */
export function titleOf(files: readonly File[]): string {
  const words = (files[0]?.name ?? "").replace(/\.[^.]{1,5}$/, "").replace(/_+|(?<=\p{L})-(?=\p{L})/gu, " ").replace(/\s+/g, " ").trim();
  return words ? (words.charAt(0).toLocaleUpperCase() + words.slice(1)).slice(0, 200) : "New episode";
}

export const newEpisode = (show_id: string, title: string) => got(client.POST("/api/shows/{show_id}/episodes", { params: { path: { show_id } }, body: { title } }));

/** Show and episode in one step, both of a name that can be changed where it is read. */
export async function newShowWithEpisode(name: string): Promise<Episode> {
  const show = await got(client.POST("/api/shows", { body: { name, about: "" } }));
  return newEpisode(show.id, name);
}

/** Opens an episode, and hands it the files that it was made for. */
export function useOpening() {
  const [, go] = useLocation();
  return (episode: Episode, files: readonly File[] = []) => {
    go(`/episodes/${episode.id}`);
    if (files.length) STAGES.find((each) => each.receive)?.receive?.(episode, files);
  };
}

/** A place where files are dropped, or chosen by a click. */
export const useFiles = (take: (files: readonly File[]) => void) =>
  useDropzone({ noClick: true, noKeyboard: true, onDrop: (files) => files.length && take(files) });
