/** What a page is made of: recordings, and sessions of several. To the page each is one source with a stave for each voice. */
import type { Episode, Passage, Voice } from "../api/client";

export interface Stave {
  recording: string;
  voice: string | null;
  /** Where on the source's clock the recording begins, in ticks. */
  offset: number;
  drift: number;
  /** The recording holds several voices that were told apart: this one is heard in its own passages only. */
  told?: boolean;
}

export interface Source {
  id: string;
  name: string;
  staves: readonly Stave[];
}

export function sourcesOf(episode: Episode, passages: readonly Passage[] = []): ReadonlyMap<string, Source> {
  const sources = new Map<string, Source>();
  const heard = new Map<string, Set<string>>();
  for (const { recording, voice } of passages) {
    if (recording && voice) heard.set(recording, (heard.get(recording) ?? new Set()).add(voice));
  }
  const numberOf = new Map(episode.voices.map((voice) => [voice.id, voice.number]));
  for (const { id, name } of episode.recordings) {
    const voices = [...(heard.get(id) ?? [])].sort((one, other) => (numberOf.get(one) ?? 0) - (numberOf.get(other) ?? 0));
    const stave = { recording: id, voice: null, offset: 0, drift: 0 };
    sources.set(id, { id, name, staves: voices.length > 1 ? voices.map((voice) => ({ ...stave, voice, told: true })) : [stave] });
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

/** Whether a stave has sound in a passage of some voice. */
export const sounds = (stave: Stave, voice: string | null | undefined) => !stave.told || stave.voice === voice;

/** The place in a stave's recording that sounds at a place of its source. */
export const toRecording = (stave: Stave, at: number) => (at - stave.offset) / (1 + stave.drift);

const INKS = ["--blue", "--green", "--plum", "--ochre", "--teal", "--rose"] as const;

/** The ink of a voice, as the name of a CSS variable. */
export const inkOf = (voice: Voice | undefined) => (voice ? (INKS[(voice.number - 1) % INKS.length] ?? "--wave") : "--wave");
