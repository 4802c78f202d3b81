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
  /** Whose picture is shown, and where on the source's clock it begins. */
  picture: { recording: string; offset: number } | null;
}

export function sourcesOf(episode: Episode): ReadonlyMap<string, Source> {
  const sources = new Map<string, Source>();
  const seen = new Set(episode.recordings.filter((recording) => recording.working_copy).map((recording) => recording.id));
  for (const { id, name } of episode.recordings) {
    const stave = { recording: id, voice: null, offset: 0, drift: 0 };
    sources.set(id, { id, name, staves: [stave], picture: seen.has(id) ? { recording: id, offset: 0 } : null });
  }
  for (const { id, name, tracks } of episode.sessions) {
    const camera = tracks.find((track) => seen.has(track.recording));
    sources.set(id, {
      id,
      name,
      staves: tracks.filter((track) => track.sounds),
      picture: camera ? { recording: camera.recording, offset: camera.offset } : null,
    });
  }
  return sources;
}

/** The place in a stave's recording that sounds at a place of its source. */
export const toRecording = (stave: Stave, at: number) => (at - stave.offset) / (1 + stave.drift);

const INKS = ["--blue", "--green", "--plum", "--ochre", "--teal", "--rose"] as const;

/** The ink of a voice, as the name of a CSS variable. */
export const inkOf = (voice: Voice | undefined) => (voice ? (INKS[(voice.number - 1) % INKS.length] ?? "--wave") : "--wave");
