/** A destination of the show's own: made anew, made like another one, or edited. */
import { useState, type FormEvent } from "react";
import { client, got } from "../../api/client";
import { useForms } from "../../api/queries";
import { useChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, TextField, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { keyOf, type Destination, type DestinationFields } from "./destinations";

const USUAL: DestinationFields = { name: "", about: "", form: "mp4", beside: [], shape: "own", short: 0, rate: "as recorded", quality: "good", bits: 192_000, loudness: -16, peak: -1, mono: false, longest: 0, captions: "none", cards: true, chapters: true, cover: true, names: "{show} - {episode} - {destination}" };

const BITS = [64_000, 96_000, 128_000, 160_000, 192_000, 256_000, 320_000] as const;
const RATES = ["as recorded", "23.976", "24", "25", "29.97", "30", "50", "59.94", "60"] as const;

/** What it is made from: a new one by its name, one that comes along under another. */
const from = (known: Destination | undefined): DestinationFields => {
  if (!known) return USUAL;
  const fields = Object.fromEntries(Object.entries(known).filter(([name]) => name in USUAL)) as unknown as DestinationFields;
  return known.own ? fields : { ...fields, name: `${known.name}, ours` };
};

export function DestinationForm({ show, known, done }: { show: string; known: Destination | undefined; done: () => void }) {
  const [wanted, setWanted] = useState(() => from(known));
  const forms = useForms().data?.forms ?? [];
  const own = known?.own ? known.key : "";
  const keep = useChange([keyOf(show)], () =>
    own
      ? got(client.PUT("/api/shows/{show_id}/destinations/{key}", { params: { path: { show_id: show, key: own } }, body: wanted }))
      : got(client.POST("/api/shows/{show_id}/destinations", { params: { path: { show_id: show } }, body: wanted })),
  );
  const remove = useChange([keyOf(show)], () => got(client.DELETE("/api/shows/{show_id}/destinations/{key}", { params: { path: { show_id: show, key: own } } })));
  const set = (change: Partial<DestinationFields>) => setWanted({ ...wanted, ...change });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    keep.run(undefined, () => {
      desk().say(`The show keeps “${wanted.name}”`);
      done();
    });
  };
  const film = forms.find((each) => each.key === wanted.form)?.group === "Film";
  const beside = wanted.beside ?? [];
  return (
    <form aria-label="Destination" className="space-y-1.5" onSubmit={submit}>
      <Heading>{own ? "Edit destination" : "New destination"}</Heading>
      <Line label="name">
        <TextField label="Name of the destination" value={wanted.name} onChange={(name) => set({ name })} required maxLength={80} className="w-56" />
      </Line>
      <Line label="for">
        <TextField label="What it is for" value={wanted.about ?? ""} onChange={(about) => set({ about })} maxLength={200} className="w-56" />
      </Line>
      <Line label="file">
        <Pick label="Form of the file" value={wanted.form ?? "mp4"} options={forms.map((each) => [each.key, each.label] as const)} onChange={(form) => set({ form, beside: beside.filter((each) => each !== form) })} className="w-56" />
      </Line>
      <details>
        <summary className="cursor-pointer text-soft hover:text-ink">{beside.length ? `With ${beside.length} more beside it` : "More files beside it"}</summary>
        <div className="mt-1 grid grid-cols-2 gap-x-2 gap-y-0.5">
          {forms
            .filter((each) => each.key !== wanted.form && !["Film", "Timeline", "Stems"].includes(each.group))
            .map((each) => (
              <label key={each.key} className="flex items-baseline gap-1">
                <Tick checked={beside.includes(each.key)} onChange={(on) => set({ beside: on ? [...beside, each.key] : beside.filter((key) => key !== each.key) })} /> {each.label}
              </label>
            ))}
        </div>
      </details>
      {film && (
        <>
          <Line label="shape">
            <Pick label="Shape of the picture" value={wanted.shape ?? "own"} options={[["own", "as the edition"], ["as recorded", "as recorded"], ["wide", "wide"], ["square", "square"], ["upright", "upright"], ["tall", "tall"]]} onChange={(shape) => set({ shape })} />
          </Line>
          <Line label="shorter side, 0 as recorded">
            <NumberField label="Shorter side in pixels" unit="px" value={wanted.short ?? 0} least={0} most={2160} step={120} onChange={(short) => set({ short: short - (short % 2) })} />
          </Line>
          <Line label="pictures a second">
            <Pick label="Pictures a second" value={wanted.rate ?? "as recorded"} options={RATES.map((each) => [each, each] as const)} onChange={(rate) => set({ rate })} />
          </Line>
          <Line label="quality">
            <Pick label="Quality of the picture" value={wanted.quality ?? "good"} options={[["small", "small file"], ["good", "good"], ["best", "best"]]} onChange={(quality) => set({ quality })} />
          </Line>
          <Line label="captions">
            <Pick label="Captions of the film" value={wanted.captions ?? "none"} options={[["none", "none"], ["burned in", "in the picture"], ["track", "as a track"], ["both", "both"]]} onChange={(captions) => set({ captions })} />
          </Line>
        </>
      )}
      <Line label="sound">
        <Pick label="Bit rate of the sound" value={String(wanted.bits ?? 192_000)} options={BITS.map((each) => [String(each), `${each / 1000} kbit/s`] as const)} onChange={(bits) => set({ bits: Number(bits) as (typeof BITS)[number] })} />
      </Line>
      <Line label="loudness">
        <span className="flex items-center gap-2">
          <label className="flex items-center gap-1">
            <Tick checked={wanted.loudness != null} onChange={(on) => set({ loudness: on ? -16 : null })} /> {wanted.loudness == null && "the edition’s own"}
          </label>
          {wanted.loudness != null && <NumberField label="Loudness of the file" unit="LUFS" value={wanted.loudness} least={-60} most={-5} digits={1} onChange={(loudness) => set({ loudness })} />}
        </span>
      </Line>
      <Line label="true peak">
        <NumberField label="True peak of the file" unit="dBTP" value={wanted.peak ?? -1} least={-20} most={0} digits={1} onChange={(peak) => set({ peak })} />
      </Line>
      <Line label="at most, 0 for any length">
        <NumberField label="Longest in seconds" unit="s" value={wanted.longest ?? 0} least={0} most={86_400} step={10} onChange={(longest) => set({ longest })} />
      </Line>
      <div className="flex flex-wrap gap-x-3">
        <label className="flex items-center gap-1">
          <Tick checked={wanted.cards ?? true} onChange={(cards) => set({ cards })} /> cards
        </label>
        <label className="flex items-center gap-1">
          <Tick checked={wanted.chapters ?? true} onChange={(chapters) => set({ chapters })} /> chapters
        </label>
        <label className="flex items-center gap-1">
          <Tick checked={wanted.cover ?? true} onChange={(cover) => set({ cover })} /> cover
        </label>
        <label className="flex items-center gap-1">
          <Tick checked={wanted.mono ?? false} onChange={(mono) => set({ mono })} /> one channel
        </label>
      </div>
      <Line label="called">
        <TextField label="Pattern of its names" value={wanted.names ?? ""} onChange={(names) => set({ names })} title="{show} {episode} {edition} {destination} {language} {step}" required maxLength={200} className="w-56 font-mono text-xs" />
      </Line>
      <div className="flex gap-1.5 pt-1">
        <Button type="submit" look="strong" why={keep.busy && "Being saved"}>
          Save
        </Button>
        <Button onClick={done}>Cancel</Button>
        {own && (
          <Button className="ml-auto" onClick={() => remove.run(undefined, done)}>
            Delete
          </Button>
        )}
      </div>
    </form>
  );
}
