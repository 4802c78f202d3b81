/** The house style: what is drawn looks so in every episode of the show. */
import { useRef, useState } from "react";
import { useShowCaptions } from "../../page/house";
import { useStyle, useStyleChange, type Style } from "../../page/style";
import { Button } from "../../ui/controls";
import { Colour, Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";

const CORNERS = ["upper left", "upper right", "lower left", "lower right"].map((each) => [each, each] as const) as readonly (readonly [Style["corner"], string])[];

export function StyleForm({ show }: { show: string }) {
  const [open, setOpen] = useState(false);
  const style = useStyle(show);
  return (
    <>
      <Button className="mt-4" aria-expanded={open} onClick={() => setOpen(!open)}>
        House style …
      </Button>
      {open && style && <Form show={show} style={style} />}
    </>
  );
}

function Form({ show, style }: { show: string; style: Style }) {
  const { keep, logo, noLogo } = useStyleChange(show);
  const fonts = useShowCaptions(show).data?.fonts.map((each) => [each.key, each.name] as const) ?? [];
  const file = useRef<HTMLInputElement>(null);
  const set = (next: Partial<Style>) => keep({ ...style, ...next });
  return (
    <section aria-label="House style" className="mt-1.5 space-y-1 rounded-md border border-line bg-paper p-2">
      <p className="leading-snug text-soft">For lower thirds, titles and cards of all episodes of the show.</p>
      <Colour label="paper" value={style.paper} onChange={(paper) => set({ paper })} />
      <Colour label="ink" value={style.ink} onChange={(ink) => set({ ink })} />
      <Colour label="what is set apart" value={style.accent} onChange={(accent) => set({ accent })} />
      <Line label="names and titles">
        <Pick label="Font of names and titles" value={style.heading} options={fonts} onChange={(heading) => set({ heading })} />
      </Line>
      <Line label="roles">
        <Pick label="Font of roles" value={style.text} options={fonts} onChange={(text) => set({ text })} />
      </Line>
      <Line label="lower thirds">
        <Pick label="Form of lower thirds" value={style.strap} options={[["slip", "on a slip of paper"], ["line", "over a line"]] as const} onChange={(strap) => set({ strap })} />
      </Line>
      <Line label="stand">
        <Pick label="Side of lower thirds" value={style.side} options={[["left", "at the left"], ["right", "at the right"]] as const} onChange={(side) => set({ side })} />
      </Line>
      <Line label="come and go">
        <Pick label="How names and titles come and go" value={style.enter} options={[["edge", "behind a moving edge"], ["fade", "fading"], ["none", "at once"]] as const} onChange={(enter) => set({ enter })} />
      </Line>
      <Line label="bar of progress">
        <Pick label="Bar of progress" value={style.bar} options={[["none", "none"], ["top", "at the top"], ["bottom", "at the bottom"]] as const} onChange={(bar) => set({ bar })} />
      </Line>
      <Line label="where nothing was filmed">
        <Pick label="Drawing of the voice" value={style.pulse} options={[["none", "the card"], ["bars", "voice in bars"], ["line", "voice as a line"], ["circle", "voice as a circle"]] as const} onChange={(pulse) => set({ pulse })} />
      </Line>
      <Line label="logo">
        <span className="flex items-center gap-1.5">
          {style.logo && <img src={style.logo} alt="The show’s logo" className="h-6 max-w-20 rounded border border-line object-contain" />}
          <Button onClick={() => file.current?.click()}>{style.logo ? "Another" : "Choose"}</Button>
          {style.logo && (
            <Button look="quiet" onClick={noLogo}>
              Take off
            </Button>
          )}
          <input ref={file} type="file" hidden aria-label="File of the logo" accept="image/*" onChange={(event) => event.target.files?.[0] && logo(event.target.files[0])} />
        </span>
      </Line>
      {style.logo && (
        <>
          <Line label="in the corner at the">
            <Pick label="Corner of the logo" value={style.corner} options={CORNERS} onChange={(corner) => set({ corner })} />
          </Line>
          <Line label="height">
            <NumberField label="Height of the logo, per cent of the picture" unit="%" least={3} most={40} value={style.logo_size} className="w-12" onChange={(logo_size) => set({ logo_size })} />
          </Line>
          <label className="flex items-center justify-between gap-2 text-soft">
            over every picture <Tick checked={style.watermark} onChange={(watermark) => set({ watermark })} />
          </label>
        </>
      )}
    </section>
  );
}
