/** What files of captions are written with, how they are called, and what their forms cannot hold. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Head } from "../../api/client";
import type { CaptionFilesAsked } from "../../api/exports";
import type { SchemaFormOut as Form } from "../../api/schema";
import { desk } from "../../desk/desk";
import { useMay } from "../../desk/rights";
import { useHouse, useShowCaptions } from "../../page/house";
import { Button } from "../../ui/controls";
import { Line, Pick as Choose, TextField, Tick } from "../../ui/fields";

const RATES = ["23.976", "24", "25", "29.97 drop", "29.97", "30", "50", "59.94"] as const;
const CHANNELS = ["CC1", "CC2", "CC3", "CC4"] as const;

interface CaptionFilesProps {
  head: Head;
  show: string;
  files: CaptionFilesAsked;
  forms: readonly Form[];
  set: (files: CaptionFilesAsked) => void;
}

export function CaptionFiles({ head, show, files, forms, set }: CaptionFilesProps) {
  const [open, setOpen] = useState(false);
  const edits = useMay("edit");
  const lost = useQuery({
    queryKey: ["cues", head.id, "lost", head.revision, head.layout, files.rate, files.placed],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/caption-forms", { params: { path: { edition_id: head.id }, query: { rate: files.rate, placed: files.placed } } })),
    enabled: open,
  }).data?.lost;
  const change = (next: Partial<CaptionFilesAsked>) => set({ ...files, ...next });
  return (
    <details className="mb-1" open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer text-soft hover:text-ink">Caption files: rate, name, what is lost</summary>
      <div className="mt-1.5 space-y-1">
        {head.second_language && (
          <Line label="captions in">
            <Choose
              label="Languages of captions"
              value={files.texts}
              options={[
                ["first", "what is said"],
                ["second", "the second language"],
                ["both", "both"],
              ]}
              onChange={(texts) => change({ texts })}
            />
          </Line>
        )}
        <Line label="frames a second">
          <Choose label="Frame rate of caption files" value={files.rate} options={RATES.map((each) => [each, each] as const)} onChange={(rate) => change({ rate })} />
        </Line>
        <Line label="line 21 channel (SCC)">
          <Choose label="Channel of line 21" value={files.channel} options={CHANNELS.map((each) => [each, each] as const)} onChange={(channel) => change({ channel })} />
        </Line>
        <fieldset className="flex items-center justify-between gap-2 text-soft">
          <legend className="float-left whitespace-nowrap">WebVTT with</legend>
          {(
            [
              ["named", "voices"],
              ["placed", "places"],
              ["word_times", "times"],
            ] as const
          ).map(([name, label]) => (
            <label key={name} className="flex items-center gap-1">
              <Tick checked={files[name]} onChange={(on) => change({ [name]: on })} /> {label}
            </label>
          ))}
        </fieldset>
        {edits && <Naming show={show} />}
        {lost && (
          <ul aria-label="What forms cannot hold" className="space-y-0.5 pt-1 text-xs leading-snug text-ochre">
            {Object.entries(lost).flatMap(([form, sentences]) =>
              sentences.map((sentence) => (
                <li key={form + sentence}>
                  <b className="font-semibold">{forms.find((each) => each.key === form)?.label ?? form}</b>: {sentence}
                </li>
              )),
            )}
            {Object.keys(lost).length === 0 && <li className="text-soft">Every form holds all of it.</li>}
          </ul>
        )}
      </div>
    </details>
  );
}

/** How the show calls its caption files. */
function Naming({ show }: { show: string }) {
  const known = useShowCaptions(show).data;
  const house = useHouse(show);
  if (!known) return null;
  return (
    <form
      key={`${known.names} ${known.language}`}
      className="space-y-1"
      onSubmit={(event) => {
        event.preventDefault();
        const form = new FormData(event.currentTarget);
        house.keep({ names: String(form.get("names")), language: String(form.get("language")) }, () => desk().say("Caption files are called so now"));
      }}
    >
      <Line label="called">
        <TextField label="Pattern of the names of caption files" name="names" defaultValue={known.names} title="{show} {episode} {edition} {language} {step}" maxLength={120} required className="w-52 font-mono text-xs" />
      </Line>
      <Line label="language">
        <span className="flex gap-1">
          <TextField label="Language and country in names" name="language" defaultValue={known.language} placeholder="as found" title="As the place wants it: en-GB or en_GB" maxLength={20} pattern="[A-Za-z]{2,3}([\-_][A-Za-z0-9]{2,8}){0,3}" className="w-20 font-mono text-xs" />
          <Button type="submit">Keep</Button>
        </span>
      </Line>
    </form>
  );
}
