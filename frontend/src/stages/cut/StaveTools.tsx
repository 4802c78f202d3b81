import { VolumeX } from "lucide-react";
import { useState } from "react";
import type { Head, PageWords, Voice } from "../../api/client";
import type { Edit } from "../../page/edit";
import type { Source, Stave } from "../../page/sources";
import { indexAt, type Tokens } from "../../page/tokens";
import { Button, Heading } from "../../ui/controls";
import { NumberField, numberOf } from "../../ui/NumberField";
import { TextField } from "../../ui/fields";

const MUTED = -120;

interface StaveProps {
  head: Head;
  page: PageWords;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  edit: Edit;
  picked: readonly [number, number] | null;
  /** The track on whose stave was selected. */
  track: string | undefined;
}

/** Mutes or lowers one voice where something is selected, and sets the level of whole tracks. */
export function StaveTools({ head, page, tokens, sources, voices, edit, picked, track }: StaveProps) {
  const at = picked?.[0] ?? 0;
  const passage = page.passages[tokens.passage[indexAt(tokens.list, at)] ?? 0];
  const staves = sources.get(passage?.recording ?? "")?.staves ?? [];
  const [decibels, setDecibels] = useState("-12");
  if (!staves.length) return null;
  const nameOf = (stave: Stave) => (stave.told ? undefined : voices.get(stave.voice ?? "")?.shown) ?? sources.get(stave.recording)?.name ?? "Track";
  // Voices that were told apart share the one track they were recorded on.
  const tracks = staves.filter((stave, index) => staves.findIndex((each) => each.recording === stave.recording) === index);
  const chosen = tracks.filter((stave) => !track || stave.recording === track);
  const set = (stave: Stave, level: number) => picked && edit.operate({ kind: "adjust", begin: picked[0], end: picked[1], track: stave.recording, decibels: level });
  const wanted = numberOf(decibels);
  const sensible = wanted !== null && wanted > MUTED && wanted <= 24;
  return (
    <section aria-label="Staves">
      <Heading aside={picked && track ? "one voice is selected" : undefined}>{tracks.length > 1 ? "Staves" : "Level"}</Heading>
      <ul className="space-y-2">
        {chosen.map((stave) => (
          <li key={stave.recording}>
            <div className="flex items-center gap-1.5">
              <span className="min-w-0 flex-1 truncate">{nameOf(stave)}</span>
              <span className="text-soft">whole track</span>
              <NumberField label={`Level of ${nameOf(stave)} in decibels`} unit="dB" value={head.tracks.find((each) => each.track === stave.recording)?.decibels ?? 0} least={MUTED} most={24} digits={1} className="w-12" onChange={(decibels) => edit.operate({ kind: "track level", track: stave.recording, decibels })} />
            </div>
            {picked && (
              <div className="mt-1 flex items-center gap-1">
                <span className="flex-1 text-soft">selection</span>
                <Button className="!px-1.5 !py-0.5" aria-label={`Mute ${nameOf(stave)} where selected`} hint="Only this voice, only there" onClick={() => set(stave, MUTED)}>
                  <VolumeX size={13} />
                </Button>
                <TextField label={`Decibels for ${nameOf(stave)} where selected`} value={decibels} inputMode="decimal" onChange={setDecibels} className="w-12 text-right font-mono text-xs" />
                <Button className="!px-1.5 !py-0.5 text-xs" disabled={!sensible} aria-label={`Set the level of ${nameOf(stave)} where selected`} onClick={() => sensible && set(stave, wanted)}>
                  Set
                </Button>
                <Button className="!px-1.5 !py-0.5 text-xs" aria-label={`${nameOf(stave)} as recorded where selected`} onClick={() => set(stave, 0)}>
                  as recorded
                </Button>
              </div>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
