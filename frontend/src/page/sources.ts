/** What a page is made of: recordings, and sessions of several. To the page each is one source with a stave for each voice. */
import type { Episode, Voice } from "../api/client";

export interface Stave {
  recording: string;
  voice: string | null;
  /** Where on the source's clock the recording begins, in ticks. */
  offset: number;
  drift: number;
}

export interface Source {
  id: string;
  name: string;
  staves: readonly Stave[];
}

export function sourcesOf(episode: Episode): ReadonlyMap<string, Source> {
  const sources = new Map<string, Source>();
  for (const { id, name } of episode.recordings) {
    const stave = { recording: id, voice: null, offset: 0, drift: 0 };
    sources.set(id, { id, name, staves: [stave] });
  }
  for (const { id, name, tracks } of episode.sessions) {
    sources.set(id, {
      id,
      name,
      staves: tracks.filter((track) => track.sounds),
    });
  }
  return sources;
}

/** The place in a stave's recording that sounds at a place of its source. */
export const toRecording = (stave: Stave, at: number) => (at - stave.offset) / (1 + stave.drift);

const INKS = ["--blue", "--green", "--plum", "--ochre", "--teal", "--rose"] as const;

/** The ink of a voice, as the name of a CSS variable. */
export const inkOf = (voice: Voice | undefined) => (voice ? (INKS[(voice.number - 1) % INKS.length] ?? "--wave") : "--wave");
