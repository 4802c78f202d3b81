/** Server-sent events: what happened elsewhere reaches this window. */
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import type { Episode, Head, Job } from "./client";
import { keys } from "./queries";
import { followShared } from "./stream";

/** Work that changes how an edition sounds or looks without a new revision of it. */
const CHANGING = new Set(["process", "loudness", "even", "faces"]);

/** Keeps what is known of an episode fresh; `ended` is told of each job that ends, and has to stay the same function. */
export function useNotices(episodeId: string, ended: (job: Job) => void) {
  const queries = useQueryClient();
  useEffect(() => {
    const acts = new Map<string, (facts: Record<string, unknown>) => void>();
    const refresh = (key: readonly unknown[]) => void queries.invalidateQueries({ queryKey: key });
    const episode = () => refresh(keys.episode(episodeId));
    let words: number | undefined;
    let edits: number | undefined;
    const heard = (kind: string, act: (facts: Record<string, unknown>) => void) => acts.set(kind, act);

    heard("job", (facts) => {
      const job = facts as unknown as Job;
      if (job.state !== "running") {
        // What was processed or measured sounds otherwise now, what faces were found in is shown otherwise.
        if (CHANGING.has(job.kind)) for (const key of ["head", "plan", "loudness"]) refresh([key]);
        ended(job);
        return episode();
      }
      // Progress comes often: it is written into what is known instead of asking for it all again.
      queries.setQueryData<Episode>(keys.episode(episodeId), (old) => {
        if (!old?.jobs.some((known) => known.id === job.id && known.state === "running")) {
          episode();
          return old;
        }
        return { ...old, jobs: old.jobs.map((known) => (known.id === job.id ? { ...known, ...job } : known)) };
      });
    });
    heard("recording", () => {
      episode();
      refresh(["pickups"]);
    });
    heard("session", () => {
      episode();
      refresh(["head"]);
      refresh(["plan"]);
    });
    heard("voice", () => {
      episode();
      refresh(["head"]);
      refresh(["plan"]);
    });
    heard("style", () => ["head", "plan", "style"].forEach((key) => refresh([key])));
    heard("captions", () => ["head", "cues", "show captions"].forEach((key) => refresh([key])));
    heard("export", episode);
    heard("published", () => refresh(["feed"]));
    heard("heard", () => refresh(["last listen"]));
    heard("findings", () => {
      refresh(["findings"]);
      refresh(["rests"]);
      refresh(["script"]);
      refresh(["tidy"]);
    });
    heard("transcript", () => {
      window.clearTimeout(words);
      words = window.setTimeout(() => {
        refresh(["head"]);
        refresh(["findings"]);
        refresh(["rests"]);
        refresh(["script"]);
        episode();
      }, 150);
    });
    heard("edition", (facts) => {
      const key = keys.head(String(facts["id"]));
      const known = queries.getQueryData<Head>(key);
      if (!known || known.revision < Number(facts["revision"])) refresh(key);
      // What recordings and editions are, and how long, follows one's own edits, too; many in a row are looked at once.
      window.clearTimeout(edits);
      edits = window.setTimeout(episode, 300);
    });
    // Before the connection stood, and while it was broken, something may have been missed: in between what was asked for
    // first and the first notice, a job may have ended.
    let joined: "not yet" | "joined" | "broken" = "not yet";
    heard("lost", () => joined === "joined" && (joined = "broken"));
    heard("hello", () => {
      if (joined === "broken") refresh([]);
      if (joined === "not yet") {
        episode();
        refresh(["head"]);
      }
      joined = "joined";
    });
    const leave = followShared(({ kind, episode: about, facts }) => {
      if (about === "" || about === episodeId) acts.get(kind)?.(facts);
    });
    return () => {
      window.clearTimeout(words);
      window.clearTimeout(edits);
      leave();
    };
  }, [episodeId, queries, ended]);
}
