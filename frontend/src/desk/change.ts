/** The one way to change what is stored, besides the edits of an edition, which wait for one another in their queue. */
import { useMutation, useQueryClient, type QueryKey } from "@tanstack/react-query";
import { client, got, queryClient } from "../api/client";
import { keys } from "../api/queries";
import { desk, failed } from "./desk";

type DropFirst<T extends unknown[]> = T extends [unknown, ...infer Rest] ? Rest : never;

export interface Change<Input, Output> {
  /** Make the change; then `then` is told what came of it. Where it fails, the person is told why. */
  run: (input: Input, then?: (output: Output) => void) => void;
  busy: boolean;
}

/**
 * A change after which all that `stale` names is read again, whether it failed or not. `settles` may deal with a failure in its own
 * way: it then says true.
 */
export function useChange<Output, Input = void>(stale: readonly QueryKey[], change: (input: Input) => Promise<Output>, settles: (error: Error) => boolean = () => false): Change<Input, Output> {
  const queries = useQueryClient();
  const { mutate, isPending } = useMutation({
    mutationFn: change,
    onError: (error) => settles(error) || failed(error),
    onSettled: () => readAgain(stale, queries),
  });
  return { run: (input, then) => mutate(input, then && { onSuccess: then }), busy: isPending };
}

/** The same for a change to an episode. */
export const useEpisodeChange = <Output, Input = void>(episode: string, ...how: DropFirst<Parameters<typeof useChange<Output, Input>>>) =>
  useChange<Output, Input>([keys.episode(episode)], ...how);

/** What is read again when the material of pages has changed: what recordings there are, who speaks in them, what they say. */
export const PAGES = [["episode"], ["head"], ["plan"], ["cues"], ["findings"], ["rests"]] as const;

/** The same for a change to what pages are made of. */
export const usePageChange = <Output, Input = void>(episode: string, ...how: DropFirst<Parameters<typeof useChange<Output, Input>>>) =>
  useChange<Output, Input>([keys.episode(episode), ...PAGES.slice(1)], ...how);

/** What is said once a change is made. */
interface Told {
  text: string;
  /** Takes it back: a step of the episode's log, or by a call of its own. */
  undo: "step" | (() => Promise<unknown>);
}

/** Says what was done, with Undo beside it. What undoing by a call changes is read again, too. */
export function tellDone({ text, undo }: Told, stale: readonly QueryKey[] = []) {
  if (undo === "step") return desk().say(text, { undo: true });
  const run = () =>
    void undo()
      .catch(failed)
      .finally(() => readAgain(stale));
  desk().say(text, { also: { text: "Undo", run } });
}

/** Reads again what is named, and nothing else. */
export const readAgain = (stale: readonly QueryKey[], queries = queryClient) => Promise.all(stale.map((queryKey) => queries.invalidateQueries({ queryKey })));

/** A change that is made from outside a component; gives whether it was made. */
export async function change(stale: readonly QueryKey[], send: () => Promise<unknown>, told?: Told): Promise<boolean> {
  try {
    await send();
    await readAgain(stale);
    if (told) tellDone(told, stale);
    return true;
  } catch (error) {
    failed(error);
    return false;
  }
}

/** Work that runs for an episode: it can be stopped, exports paused and put first, and what stopped can be tried again. */
export function useWork(episode: string) {
  const stop = useEpisodeChange(episode, (job_id: string) => got(client.POST("/api/jobs/{job_id}/cancel", { params: { path: { job_id } } })));
  const again = useEpisodeChange(episode, (job_id: string) => got(client.POST("/api/jobs/{job_id}/retry", { params: { path: { job_id } } })));
  const pause = useEpisodeChange(episode, (job_id: string) => got(client.POST("/api/jobs/{job_id}/pause", { params: { path: { job_id } } })));
  const first = useEpisodeChange(episode, (job_id: string) => got(client.POST("/api/jobs/{job_id}/first", { params: { path: { job_id } } })));
  return { stop: stop.run, again: again.run, pause: pause.run, first: first.run };
}
