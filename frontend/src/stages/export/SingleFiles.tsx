/** Every form by itself, for who wants just this one. */
import { useState } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { USUAL_FILES, type CaptionFilesAsked } from "../../api/exports";
import type { SchemaFormOut as Form } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import { playhead, usePlace } from "../../desk/place";
import { useMay } from "../../desk/rights";
import { selected, type Tokens } from "../../page/tokens";
import { Button } from "../../ui/controls";
import { Pick, Tick } from "../../ui/fields";
import { CaptionFiles } from "./CaptionFiles";

const BITS = [64, 96, 128, 160, 192, 256, 320] as const;

/** How films have captions. */
const CAPTIONS = { none: [], "burned in": ["burned in"], track: ["track"], both: ["burned in", "track"] } as const;

export function SingleFiles({ episode, head, tokens, forms }: { episode: Episode; head: Head; tokens: Tokens; forms: readonly Form[] }) {
  const [kilobits, setKilobits] = useState<(typeof BITS)[number]>(192);
  const [muted, setMuted] = useState(false);
  const [captions, setCaptions] = useState<keyof typeof CAPTIONS>("none");
  const [files, setFiles] = useState<CaptionFilesAsked>(USUAL_FILES);
  const [hour, setHour] = useState<"0" | "1">("0");
  const [only, setOnly] = useState(false);
  const exports = useMay("export");
  const offered = forms.filter((each) => exports || each.text);
  const selection = usePlace((state) => state.selection);
  const range = selected(tokens.list, selection);
  /** What of the edition is exported: the selection where that is wanted; a single picture is that at the playhead. */
  const partOf = (form: string): [number, number] | null => {
    if (only && range) return [Math.round(range[0]), Math.round(range[1])];
    const at = Math.round(playhead());
    return form === "png" ? [at, Math.min(at + RATE, head.recorded_time)] : null;
  };
  const start = useEpisodeChange(episode.id, (form: Form["key"]) =>
    got(client.POST("/api/editions/{edition_id}/exports", { params: { path: { edition_id: head.id } }, body: { form, destination: "", part: partOf(form), bits: (kilobits * 1000) as 192000, muted, captions: [...CAPTIONS[captions]], ...files, hour: hour === "1" ? 1 : 0 } })),
  );
  return (
    <>
      <label className="mb-1.5 flex items-center gap-1.5">
        <Tick checked={only && range !== null} disabled={!range} onChange={setOnly} /> {range ? `only the selection (${clock(range[1] - range[0])})` : <span className="text-soft">only the selection: nothing is selected</span>}
      </label>
      {[...new Set(offered.map((each) => each.group))].map((group) => (
        <div key={group} className="mb-1.5 grid grid-cols-[76px_1fr] items-start gap-1">
          <span className="pt-1.5 text-soft">{group}</span>
          <div className="flex flex-wrap gap-1.5">
            {offered.filter((each) => each.group === group).map(({ key, label, about }) => (
              <Button key={key} hint={about} why={head.running_time === 0 && "Everything is struck: put something back first"} onClick={() => start.run(key)}>
                {label}
              </Button>
            ))}
            <Lost forms={offered.filter((each) => each.group === group)} />
          </div>
        </div>
      ))}
      <label className="mb-1 flex items-center justify-between gap-2 text-soft">
        Media without timecode begin at
        <Pick label="Media without timecode begin at" value={hour} options={[["0", "0:00:00"], ["1", "1:00:00"]] as const} onChange={setHour} />
      </label>
      <label className="mb-1 flex items-center justify-between gap-2 text-soft">
        Sound of MP3, M4A, Opus and films
        <Pick label="Bit rate" value={String(kilobits)} options={BITS.map((each) => [String(each), `${each} kbit/s`] as const)} onChange={(each) => setKilobits(Number(each) as (typeof BITS)[number])} />
      </label>
      <label className="mb-1 flex items-center justify-between gap-2 text-soft">
        Captions of films
        <Pick
          label="Captions of films"
          value={captions}
          options={[
            ["none", "none"],
            ["burned in", "burned in"],
            ["track", "as a track"],
            ["both", "both"],
          ]}
          onChange={setCaptions}
        />
      </label>
      <CaptionFiles {...{ head, files, forms }} show={episode.show_id} set={setFiles} />
      {head.muted.length > 0 && (
        <label className="flex items-center gap-1.5 text-soft">
          <Tick checked={muted} onChange={setMuted} /> write words of muted voices, too
        </label>
      )}
    </>
  );
}

/** What forms of a group cannot carry, those alike together. */
function Lost({ forms }: { forms: readonly Form[] }) {
  const lost = new Map<string, string[]>();
  for (const { label, lost: what } of forms) if (what.length) lost.set(what.join(", "), [...(lost.get(what.join(", ")) ?? []), label]);
  if (!lost.size) return null;
  return (
    <details className="basis-full text-xs leading-snug text-soft">
      <summary className="cursor-pointer hover:text-ink">What they cannot carry</summary>
      {[...lost].map(([what, labels]) => (
        <p key={what} className="mt-0.5">
          <b className="font-semibold">{labels.join(", ")}:</b> {what}
        </p>
      ))}
    </details>
  );
}
