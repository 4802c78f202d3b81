/** How loud the programme is, and what it is brought to. */
import { useEffect, useRef } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { useCurve } from "../../api/queries";
import { useEpisodeChange, useWork } from "../../desk/change";
import type { Edit } from "../../page/edit";
import { player } from "../../player/player";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Pick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Working } from "../../ui/Working";

const TARGETS: readonly (readonly [string, string])[] = [
  ["", "as it is mixed"],
  ["-16", "−16 LUFS, stereo"],
  ["-19 mono", "−19 LUFS, mono"],
  ["-14", "−14 LUFS"],
  ["-23", "−23 LUFS, broadcast"],
];

const told = (value: number | null | undefined, unit: string) => (value === null || value === undefined ? "–" : `${value.toFixed(1)} ${unit}`);

export function Loudness({ episode, head, edit }: { episode: Episode; head: Head; edit: Edit }) {
  const work = useWork(episode.id);
  const { target, peak, mono, integrated, range, true_peak, edited, gain } = head.loudness;
  const measure = useEpisodeChange(episode.id, () => got(client.POST("/api/editions/{edition_id}/loudness", { params: { path: { edition_id: head.id } } })));
  const job = episode.jobs.find((each) => each.kind === "loudness" && each.subject === head.id && ["queued", "running", "failed"].includes(each.state));
  const curve = useCurve(head.id, head.revision).data;
  const set = (wanted: number | null, most = peak, one = mono) => edit.operate({ kind: "loudness", target: wanted, peak: most, mono: one });
  const value = target === null ? "" : `${target}${mono ? " mono" : ""}`;
  const known = TARGETS.some(([each]) => each === value);
  return (
    <>
      <Heading aside={edited ? "edited since" : undefined}>Loudness</Heading>
      <div className="flex items-center gap-1.5">
        <Pick label="Loudness to reach" value={known ? value : "own"} options={[...TARGETS, ["own", target === null || known ? "another …" : `${target} LUFS`]]} onChange={(next) => (next === "own" ? set(-18) : set(next ? Number(next.split(" ")[0]) : null, peak, next.endsWith("mono")))} className="min-w-0 flex-1" />
        {target !== null && !known && <NumberField label="Loudness in LUFS" unit="LUFS" value={target} least={-60} most={-5} digits={1} className="w-12" onChange={(value) => set(value)} />}
        {target !== null && <NumberField label="True peak in dBTP" title="Never louder than that, between samples either" unit="dBTP" value={peak} least={-20} most={0} digits={1} step={0.5} className="w-11" onChange={(value) => set(target, value)} />}
      </div>
      <Meters />
      <dl className="mt-1.5 grid grid-cols-3 gap-x-2 text-center">
        {[
          ["loudness", told(integrated ?? curve?.integrated, "LUFS")],
          ["range", told(range ?? curve?.range, "LU")],
          ["true peak", told(true_peak ?? curve?.peak, "dBTP")],
        ].map(([name, value]) => (
          <div key={name}>
            <dt className="text-xs text-soft">{name}</dt>
            <dd className="font-mono text-xs">{value}</dd>
          </div>
        ))}
      </dl>
      {mono && <p className="mt-1 text-center text-soft">The same on both sides; WAV and MP3 have one channel.</p>}
      {gain !== null && gain !== undefined && <p className="mt-1 text-center text-soft">reached by {gain > 0 ? "+" : ""}{gain.toFixed(1)} dB and the limiter</p>}
      {curve && curve.short_term.length > 1 && <Curve values={curve.short_term} target={target} />}
      {job?.state === "failed" ? (
        <Trouble>{job.trouble}</Trouble>
      ) : job ? (
        <Working job={job} total={job.total} verb="Measuring" onStop={work.stop} />
      ) : (
        <Button className="mt-1.5 w-full" onClick={() => measure.run(undefined)}>
          {edited ? "Measure again: it was edited since" : "Measure now"}
        </Button>
      )}
    </>
  );
}

/** Short-term loudness from beginning to end. */
function Curve({ values, target }: { values: readonly number[]; target: number | null | undefined }) {
  const [low, high] = [-40, -8];
  const y = (lufs: number) => 44 - (Math.max(0, Math.min(high - low, lufs - low)) / (high - low)) * 44;
  const points = values.map((value, index) => `${((index / (values.length - 1)) * 280).toFixed(1)},${y(value).toFixed(1)}`).join(" ");
  return (
    <svg viewBox="0 0 280 44" className="mt-1.5 w-full" role="img" aria-label={`Short-term loudness, from ${Math.min(...values).toFixed(0)} to ${Math.max(...values).toFixed(0)} LUFS`}>
      <rect width="280" height="44" rx="3" fill="var(--paper)" />
      {target != null && <line x1="0" x2="280" y1={y(target)} y2={y(target)} stroke="var(--green)" strokeDasharray="4 3" />}
      <polyline points={points} fill="none" stroke="var(--blue)" strokeWidth="1.5" />
    </svg>
  );
}

const BARS = [
  ["M", "momentary", "LUFS"],
  ["S", "short term", "LUFS"],
  ["P", "true peak", "dBTP"],
] as const;

/** What is heard now; drawn by themselves, so that nothing else is. */
function Meters() {
  const bars = useRef<(HTMLDivElement | null)[]>([]);
  const texts = useRef<(HTMLSpanElement | null)[]>([]);
  useEffect(() => {
    let frame = 0;
    let last = 0;
    const step = (now: number) => {
      frame = requestAnimationFrame(step);
      if (now - last < 80) return;
      last = now;
      const { momentary, shortTerm, peak } = player.meters.read();
      for (const [index, value] of [momentary, shortTerm, peak].entries()) {
        const bar = bars.current[index];
        const text = texts.current[index];
        if (bar) bar.style.transform = `scaleX(${Math.max(0, Math.min(1, (value + 48) / 48))})`;
        if (text) text.textContent = value > -70 ? value.toFixed(1) : "–";
      }
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, []);
  return (
    <div role="group" aria-label="Meters" className="mt-1.5 space-y-0.5">
      {BARS.map(([letter, name, unit], index) => (
        <div key={letter} className="flex items-center gap-1.5" title={`${name}, ${unit}`}>
          <span className="w-3 font-mono text-xs text-soft">{letter}</span>
          <div className="h-2 flex-1 overflow-hidden rounded-sm border border-line bg-paper">
            <div ref={(each) => void (bars.current[index] = each)} className={index === 2 ? "h-full origin-left bg-ochre" : "h-full origin-left bg-green"} style={{ transform: "scaleX(0)" }} />
          </div>
          <span ref={(each) => void (texts.current[index] = each)} className="w-10 text-right font-mono text-xs" aria-label={`${name} in ${unit}`}>
            –
          </span>
        </div>
      ))}
    </div>
  );
}
