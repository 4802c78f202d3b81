/** An episode in its show: its picture, what waits in it, and who worked on it last. */
import { useState } from "react";
import { Link } from "wouter";
import { client, got, type EpisodeBrief } from "../../api/client";
import { keys } from "../../api/queries";
import { clock } from "../../api/time";
import { tellDone, useChange } from "../../desk/change";
import { Item, Menu, Renaming } from "./parts";

const STATES: Record<EpisodeBrief["state"], string> = {
  empty: "no recordings yet",
  gathered: "not transcribed yet",
  transcribing: "being transcribed",
  transcribed: "transcribed",
  exported: "exported",
};

/** What is to be done in it; where nothing waits, how far it is. */
export function told({ waiting, state }: EpisodeBrief): string {
  const several = (count: number, one: string, many: string) => (count ? [`${count} ${count === 1 ? one : many}`] : []);
  const waits = [
    ...several(waiting.failed, "recording failed", "recordings failed"),
    ...several(waiting.preparing, "recording being read", "recordings being read"),
    ...several(waiting.to_place, "session to confirm", "sessions to confirm"),
    ...several(waiting.to_transcribe, "recording to transcribe", "recordings to transcribe"),
  ];
  return [...(state === "gathered" && waits.length ? [] : [STATES[state]]), ...waits].join(" · ");
}

export interface EpisodeChange {
  title?: string;
  folder?: string;
  archived?: boolean;
  deleted?: boolean;
}

/** Change an episode. */
export const changed = (id: string, what: EpisodeChange) =>
  got(
    client.PATCH("/api/episodes/{episode_id}", {
      params: { path: { episode_id: id } },
      body: { title: null, folder: null, archived: null, deleted: null, ...what },
    }),
  );

interface EpisodeLineProps {
  episode: EpisodeBrief;
  folders: readonly string[];
  /** Whether whoever looks may change it. */
  edits: boolean;
}

export function EpisodeLine({ episode, folders, edits }: EpisodeLineProps) {
  const [naming, setNaming] = useState<"title" | "folder" | null>(null);
  const change = useChange([keys.shows], (what: EpisodeChange) => changed(episode.id, what));
  const copy = useChange([keys.shows], (template: boolean) =>
    got(
      client.POST("/api/episodes/{episode_id}/duplicate", {
        params: { path: { episode_id: episode.id } },
        body: { title: template ? `${episode.title}, set up anew` : `${episode.title}, copy`, template },
      }),
    ),
  );
  return (
    <li>
      <div className="flex items-center gap-3 px-1 hover:bg-side">
        {naming ? (
          <Renaming
            label={naming === "title" ? `Title of ${episode.title}` : `Folder of ${episode.title}`}
            value={naming === "title" ? episode.title : episode.folder}
            options={naming === "folder" ? folders : []}
            done={(text) => {
              setNaming(null);
              if (naming === "folder" && text !== undefined) change.run({ folder: text });
              else if (text) change.run({ title: text });
            }}
          />
        ) : (
          <Link href={`/episodes/${episode.id}`} className="flex min-w-0 flex-1 items-center gap-3 py-2">
            <img src={`/api/episodes/${episode.id}/picture`} alt="" loading="lazy" className="h-12 w-[85px] shrink-0 rounded-sm border border-line object-cover" />
            <span className="min-w-0 flex-1">
              <span className="block truncate font-serif text-[17px]">{episode.title}</span>
              <span className="block truncate text-soft">{episode.archived ? "archived" : told(episode)}</span>
            </span>
            <span className="w-14 text-right font-mono text-xs text-soft">{episode.length > 0 && clock(episode.length)}</span>
            <span className="w-28 truncate text-right text-soft">
              <time className="block" dateTime={episode.changed}>
                {new Date(episode.changed).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })}
              </time>
              {episode.who && `by ${episode.who}`}
            </span>
          </Link>
        )}
        {edits && <Menu label={`More about ${episode.title}`}>
          <Item onSelect={() => setNaming("title")}>Rename</Item>
          <Item onSelect={() => setNaming("folder")}>Move to folder…</Item>
          <Item onSelect={() => copy.run(false)}>Duplicate</Item>
          <Item onSelect={() => copy.run(true)}>New episode from these settings</Item>
          <Item onSelect={() => change.run({ archived: !episode.archived })}>{episode.archived ? "Take out of the archive" : "Archive"}</Item>
          <Item onSelect={() => change.run({ deleted: true }, () => tellDone({ text: `Deleted “${episode.title}”`, undo: () => changed(episode.id, { deleted: false }) }, [keys.shows]))}>Delete</Item>
        </Menu>}
      </div>
    </li>
  );
}
