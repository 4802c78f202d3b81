import { Slider } from "radix-ui";
import { useMemo, useState } from "react";
import type { Head, PageWords, Token, Voice } from "../../api/client";
import type { SchemaThresholdOut as Threshold } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { covered, type Tokens } from "../../page/tokens";
import { Button } from "../../ui/controls";
import type { Settings } from "./settings";

interface RhythmProps {
  head: Head;
  page: PageWords;
  tokens: Tokens;
  voices: ReadonlyMap<string, Voice>;
  thresholds: readonly Threshold[];
  /** What is proposed to go as a whole: rests in it do not count. */
  going: readonly (readonly [number, number])[];
  settings: Settings;
}

const NAMES = ["calm", "easy", "steady", "lively", "brisk"];
const STEP = RATE / 20;
/** Rests up to three seconds are drawn; longer ones stand in the last bar. */
const BARS = 60;
const shown = (ticks: number) => (ticks / RATE).toFixed(2);

const RULES = [
  ["keep_answers", "keep rests before an answer"],
  ["keep_laughter", "keep rests before a laugh"],
  ["soften_breaths", "soften breaths, as findings of their own"],
] as const;

interface Rest {
  len: number;
  /** Whose it is: that of the voice before it. */
  voice: string | null;
}

/** All rests between words that are kept. */
export function restsKept(page: PageWords, tokens: Tokens, head: Head, going: readonly (readonly [number, number])[]): Rest[] {
  const stays = ({ at, len }: Token) => covered(head.struck, at, at + len) === 0 && !going.some(([begin, end]) => begin < at + len && end > at);
  const voiceBefore = (index: number) => page.passages[tokens.passage[index - 1] ?? 0]?.voice ?? null;
  return tokens.list.flatMap((token, index) =>
    token.k === "r" && index > 0 && index < tokens.list.length - 1 && token.t >= 0 && stays(token) ? [{ len: token.len, voice: voiceBefore(index) }] : [],
  );
}

/** What thresholds would do: how many rests become shorter, and how much time that saves. */
export function effect(rests: readonly Rest[], limitOf: (voice: string | null) => readonly [number, number]): { count: number; saved: number } {
  const long = rests.filter(({ len, voice }) => len > Math.max(...limitOf(voice)));
  return { count: long.length, saved: long.reduce((sum, { len, voice }) => sum + len - limitOf(voice)[0], 0) };
}

/** How long rests may be: one control for all, the rests of this edition with the threshold on them, and numbers for each voice. */
export function Rhythm({ head, page, tokens, voices, thresholds, going, settings }: RhythmProps) {
  const rests = useMemo(() => restsKept(page, tokens, head, going), [page, tokens, head, going]);
  const common = thresholds.find((each) => each.voice === null);
  const lengths = useMemo(() => rests.map((rest) => rest.len), [rests]);
  // While a handle is dragged, what it would do is shown at once; the list follows when it is let go.
  const [dragged, setDragged] = useState<readonly [number, number] | null>(null);
  if (!common || !settings.known) return null;
  const [becomes, longer] = dragged ?? [common.becomes, common.longer];
  // What is dragged is for all voices; until then each has its own.
  const limitOf = (voice: string | null): readonly [number, number] => {
    const own = dragged ? undefined : thresholds.find((each) => each.voice === voice);
    return own ? [own.becomes, own.longer] : [becomes, longer];
  };
  const { count, saved } = effect(rests, limitOf);
  const own = settings.known.rests !== null || Object.keys(settings.known.voices).length > 0;
  const choose = (values: readonly number[]) => {
    setDragged(null);
    settings.change({ rests: { longer: values[1] ?? longer, becomes: values[0] ?? becomes } });
  };
  return (
    <div className="mt-3 space-y-2" role="group" aria-label="Rhythm">
      <div className="flex items-center gap-2">
        <span className="text-soft">calm</span>
        <input type="range" min={0} max={4} step={1} value={settings.known.rhythm} aria-label="Rhythm from calm to brisk" aria-valuetext={NAMES[settings.known.rhythm] ?? ""} onChange={(event) => settings.change({ rhythm: Number(event.target.value), own_rests: false })} className="min-w-0 flex-1 accent-blue" />
        <span className="text-soft">brisk</span>
      </div>
      <Histogram rests={lengths} longer={longer} becomes={becomes} />
      <Slider.Root value={[becomes, longer]} min={STEP} max={BARS * STEP} step={STEP} minStepsBetweenThumbs={0} onValueChange={([a = becomes, b = longer]) => setDragged([a, b])} onValueCommit={choose} className="relative flex h-4 touch-none items-center select-none">
        <Slider.Track className="relative h-0.5 w-full bg-line">
          <Slider.Range className="absolute h-full bg-blue" />
        </Slider.Track>
        <Slider.Thumb aria-label="Long rests become" className="block size-3.5 rounded-full border-2 border-green bg-paper" />
        <Slider.Thumb aria-label="Rests are long from" className="block size-3.5 rounded-full border-2 border-blue bg-paper" />
      </Slider.Root>
      <p aria-live="polite" className="leading-snug">
        Longer than <b className="font-mono text-[12px]">{shown(longer)} s</b> become <b className="font-mono text-[12px]">{shown(becomes)} s</b>: {count} {count === 1 ? "rest" : "rests"}, {clock(saved)} saved, {clock(head.running_time - saved)} left
      </p>
      <p className="text-soft">
        {own ? "Set by hand" : `${NAMES[settings.known.rhythm] ?? ""}, from a median rest of ${shown(common.median)} s`}
        {own && (
          <Button look="quiet" className="!px-1 !py-0" onClick={() => settings.change({ own_rests: false })}>
            Back to the rhythm
          </Button>
        )}
      </p>
      {thresholds.length > 2 && (
        <ul aria-label="Rests of each voice" className="space-y-1">
          {thresholds.filter((each) => each.voice !== null).map((each) => (
            <VoiceRests key={`${each.voice}-${each.longer}-${each.becomes}`} threshold={each} name={voices.get(each.voice ?? "")?.shown ?? "Voice"} settings={settings} />
          ))}
        </ul>
      )}
      {RULES.map(([rule, name]) => (
        <label key={rule} className="flex items-center gap-1.5 text-soft">
          <input type="checkbox" checked={settings.known?.[rule]} onChange={(event) => settings.change({ [rule]: event.target.checked })} /> {name}
        </label>
      ))}
    </div>
  );
}

function Histogram({ rests, longer, becomes }: { rests: readonly number[]; longer: number; becomes: number }) {
  const bars = useMemo(() => {
    const counts = new Array<number>(BARS).fill(0);
    for (const rest of rests) {
      const index = Math.min(BARS - 1, Math.floor(rest / STEP));
      counts[index] = (counts[index] ?? 0) + 1;
    }
    return counts;
  }, [rests]);
  const most = Math.max(1, ...bars);
  const x = (ticks: number) => Math.min(BARS, ticks / STEP) * 4;
  return (
    <svg viewBox={`0 0 ${BARS * 4} 56`} role="img" aria-label={`How long the ${rests.length} rests are, up to three seconds`} className="w-full">
      {bars.map((count, index) => {
        // Rare long ones are to be seen, too: the height grows with the root.
        const tall = count ? 4 + 40 * Math.sqrt(count / most) : 0;
        return <rect key={index} x={index * 4 + 0.5} y={46 - tall} width={3} height={tall} className={index * STEP >= longer ? "fill-red" : "fill-[var(--wave)]"} />;
      })}
      <line x1={0} x2={BARS * 4} y1={46} y2={46} className="stroke-line" />
      <line x1={x(longer)} x2={x(longer)} y1={0} y2={46} className="stroke-blue" strokeDasharray="2 1.5" />
      <line x1={x(becomes)} x2={x(becomes)} y1={14} y2={46} className="stroke-green" strokeDasharray="2 1.5" />
      {[0, 1, 2, 3].map((second) => (
        <text key={second} x={Math.min(BARS * 4 - 9, second * 80 + 1)} y={55} className="fill-soft text-[8px]">
          {second} s
        </text>
      ))}
    </svg>
  );
}

function VoiceRests({ threshold, name, settings }: { threshold: Threshold; name: string; settings: Settings }) {
  const set = (change: Partial<Pick<Threshold, "longer" | "becomes">>) => {
    const next = { longer: threshold.longer, becomes: threshold.becomes, ...change };
    settings.change({ voices: { ...settings.known?.voices, [threshold.voice ?? ""]: next } });
  };
  const field = (what: "longer" | "becomes", label: string) => (
    <input
      defaultValue={shown(threshold[what])}
      inputMode="decimal"
      aria-label={`${label} of ${name}, in seconds`}
      onKeyDown={(event) => event.key === "Enter" && event.currentTarget.blur()}
      onBlur={(event) => {
        const wanted = Math.round(Number(event.target.value.replace(",", ".")) * RATE);
        if (wanted >= STEP && wanted !== threshold[what]) set({ [what]: wanted });
      }}
      className="w-12 rounded border border-line bg-paper px-1 py-0.5 text-right font-mono text-[11px] text-ink"
    />
  );
  return (
    <li className="flex items-center gap-1 text-soft">
      <span className="min-w-0 flex-1 truncate text-ink" title={`Median rest ${shown(threshold.median)} s`}>
        {name}
      </span>
      over {field("longer", "Long rests")} become {field("becomes", "What long rests become")} s
    </li>
  );
}
