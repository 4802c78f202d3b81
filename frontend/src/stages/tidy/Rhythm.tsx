import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type Head, type Voice } from "../../api/client";
import { keys } from "../../api/queries";
import type { SchemaThresholdOut as Threshold } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { Button } from "../../ui/controls";
import { NumberField } from "../../ui/NumberField";
import { Tick } from "../../ui/fields";
import type { Settings } from "./settings";
import { Slider } from "../../ui/Slider";

interface RhythmProps {
  head: Head;
  voices: ReadonlyMap<string, Voice>;
  thresholds: readonly Threshold[];
  settings: Settings;
}

const NAMES = ["calm", "easy", "steady", "lively", "brisk"];
const STEP = RATE / 20;
/** Seconds, of a rest that somebody may want. */
const LONGEST = 60;
/** Rests up to three seconds are drawn; longer ones stand in the last bar. */
const BARS = 60;
const shown = (ticks: number) => (ticks / RATE).toFixed(2);

const RULES = [
  ["keep_answers", "keep rests before an answer"],
  ["keep_laughter", "keep rests before a laugh"],
  ["soften_breaths", "soften breaths, as findings of their own"],
] as const;

/** The rests that wait to be judged, and what a limit would do to them; without one, those of the show. */
const useRests = (edition: string, revision: number, limit: readonly [number, number] | null) => {
  const [becomes, longer] = limit ?? [0, 0];
  return useQuery({
    queryKey: keys.rests(edition, revision, longer, becomes),
    queryFn: () => got(client.GET("/api/editions/{edition_id}/rests", { params: { path: { edition_id: edition }, query: { longer, becomes } } })),
    placeholderData: (known) => known,
    gcTime: 10_000,
  }).data;
};

/** How long rests may be: one control for all, the rests of this edition with the threshold on them, and numbers for each voice. */
export function Rhythm({ head, voices, thresholds, settings }: RhythmProps) {
  const common = thresholds.find((each) => each.voice === null);
  // While a handle is dragged, what it would do is shown at once; the list follows when it is let go.
  const [dragged, setDragged] = useState<readonly [number, number] | null>(null);
  const rests = useRests(head.id, head.revision, dragged);
  if (!common || !settings.known || !rests) return null;
  const [becomes, longer] = dragged ?? [common.becomes, common.longer];
  const count = rests.long.length;
  const own = settings.known.rests !== null || Object.keys(settings.known.voices).length > 0;
  const choose = (values: readonly number[]) => {
    setDragged(null);
    settings.change({ rests: { longer: values[1] ?? longer, becomes: values[0] ?? becomes } });
  };
  return (
    <div className="mt-3 space-y-2" role="group" aria-label="Rhythm">
      <div className="flex items-center gap-2">
        <span className="text-soft">calm</span>
        <Slider handles={[{ label: "Rhythm from calm to brisk", value: settings.known.rhythm, text: NAMES[settings.known.rhythm] ?? "" }]} min={0} max={4} step={1} onSet={([rhythm = 2]) => settings.change({ rhythm, own_rests: false })} className="min-w-0 flex-1" />
        <span className="text-soft">brisk</span>
      </div>
      <Histogram rests={rests.lengths} long={rests.long} longer={longer} becomes={becomes} />
      <Slider handles={[{ label: "Long rests become", value: becomes, green: true }, { label: "Rests are long from", value: longer }]} min={STEP} max={BARS * STEP} step={STEP} onMove={([a = becomes, b = longer]) => setDragged([a, b])} onSet={choose} />
      <p aria-live="polite" className="leading-snug">
        Longer than <b className="font-mono text-[12px]">{shown(longer)} s</b> become <b className="font-mono text-[12px]">{shown(becomes)} s</b>: {count} {count === 1 ? "rest" : "rests"}, {clock(rests.saved)} saved, {clock(head.running_time - rests.saved)} left
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
            <VoiceRests key={each.voice} threshold={each} name={voices.get(each.voice ?? "")?.shown ?? "Voice"} settings={settings} />
          ))}
        </ul>
      )}
      {RULES.map(([rule, name]) => (
        <label key={rule} className="flex items-center gap-1.5 text-soft">
          <Tick checked={Boolean(settings.known?.[rule])} onChange={(checked) => settings.change({ [rule]: checked })} /> {name}
        </label>
      ))}
    </div>
  );
}

/** So many rests of each length, a bar for each step. */
function counted(rests: readonly number[]): number[] {
  const counts = new Array<number>(BARS).fill(0);
  for (const rest of rests) {
    const index = Math.min(BARS - 1, Math.floor(rest / STEP));
    counts[index] = (counts[index] ?? 0) + 1;
  }
  return counts;
}

function Histogram({ rests, long, longer, becomes }: { rests: readonly number[]; long: readonly number[]; longer: number; becomes: number }) {
  const bars = useMemo(() => counted(rests), [rests]);
  const red = useMemo(() => counted(long), [long]);
  const most = Math.max(1, ...bars);
  // Rare long ones are to be seen, too: the height grows with the root.
  const tall = (count: number) => (count ? 4 + 40 * Math.sqrt(count / most) : 0);
  const x = (ticks: number) => Math.min(BARS, ticks / STEP) * 4;
  return (
    <svg viewBox={`0 0 ${BARS * 4} 56`} role="img" aria-label={`How long the ${rests.length} rests are, up to three seconds; ${long.length} are too long`} className="w-full">
      {bars.map((count, index) => (
        <g key={index}>
          <rect x={index * 4 + 0.5} y={46 - tall(count)} width={3} height={tall(count)} className="fill-[var(--wave)]" />
          <rect x={index * 4 + 0.5} y={46 - tall(red[index] ?? 0)} width={3} height={tall(red[index] ?? 0)} className="fill-red" />
        </g>
      ))}
      <line x1={0} x2={BARS * 4} y1={46} y2={46} className="stroke-line" />
      <line x1={x(longer)} x2={x(longer)} y1={0} y2={46} className="stroke-blue" strokeDasharray="2 1.5" />
      <line x1={x(becomes)} x2={x(becomes)} y1={14} y2={46} className="stroke-green" strokeDasharray="2 1.5" />
      {[0, 1, 2, 3].map((second) => (
        <text key={second} x={Math.min(BARS * 4 - 13, second * 80 + 1)} y={55} className="fill-soft text-[10px]">
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
    <NumberField label={`${label} of ${name}, in seconds`} unit="" value={threshold[what] / RATE} least={STEP / RATE} most={LONGEST} step={STEP / RATE} digits={2} className="w-12" onChange={(seconds) => set({ [what]: Math.round(seconds * RATE) })} />
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
