/** What an equaliser does, drawn over the average spectrum of the voice it is for. */
import { useState } from "react";
import { client, got, type Head } from "../../api/client";
import { failed } from "../../desk/desk";
import { Button } from "../../ui/controls";
import { Pick } from "../../ui/fields";
import { useSpectrum, type Processor } from "./queries";

const WIDTH = 280;
const HEIGHT = 96;
const [LOWEST, HIGHEST] = [50, 16_000];
/** Decibels of the equaliser from the middle to the top, and of the spectrum from bottom to top. */
const [GAIN, LEVEL] = [18, 60];

const x = (hertz: number) => (Math.log(hertz / LOWEST) / Math.log(HIGHEST / LOWEST)) * WIDTH;

interface EqualiserProps {
  head: Head;
  track: string;
  state: string;
  others: readonly (readonly [string, string])[];
  put: (next: Processor) => void;
}

export function EqualiserCurve({ head, track, state, others, put }: EqualiserProps) {
  const spectrum = useSpectrum(head.id, track, state, true).data;
  const [to, setTo] = useState("");
  const match = () =>
    void got(client.GET("/api/editions/{edition_id}/match", { params: { path: { edition_id: head.id }, query: { track, ...(to && { to }) } } }))
      .then(put)
      .catch(failed);
  const top = Math.max(...(spectrum?.level ?? [0]));
  const level = (decibels: number) => HEIGHT - Math.max(0, Math.min(1, 1 + (decibels - top) / LEVEL)) * (HEIGHT - 8);
  const gain = (decibels: number) => HEIGHT / 2 - (decibels / GAIN) * (HEIGHT / 2);
  const points = (values: readonly number[], y: (value: number) => number) => values.map((value, index) => `${x(spectrum?.hertz[index] ?? LOWEST).toFixed(1)},${y(value).toFixed(1)}`).join(" ");
  return (
    <figure aria-label="Equaliser over the average spectrum of the voice">
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT + 14}`} className="w-full" role="img" aria-label={spectrum ? `Raises by at most ${Math.max(0, ...spectrum.curve).toFixed(1)} decibels, lowers by at most ${Math.max(0, ...spectrum.curve.map((each) => -each)).toFixed(1)}` : "Being measured"}>
        <rect width={WIDTH} height={HEIGHT} fill="var(--rail)" rx="3" />
        {[100, 1000, 10_000].map((hertz) => (
          <g key={hertz}>
            <line x1={x(hertz)} x2={x(hertz)} y1="0" y2={HEIGHT} stroke="var(--line)" />
            <text x={x(hertz)} y={HEIGHT + 11} textAnchor="middle" fontSize="10" fill="var(--soft)">
              {hertz < 1000 ? `${hertz} Hz` : `${hertz / 1000} kHz`}
            </text>
          </g>
        ))}
        <line x1="0" x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} stroke="var(--line)" />
        {spectrum && spectrum.level.length > 0 && <polygon points={`0,${HEIGHT} ${points(spectrum.level, level)} ${WIDTH},${HEIGHT}`} fill="var(--wave)" opacity="0.45" />}
        {spectrum && <polyline points={points(spectrum.curve, gain)} fill="none" stroke="var(--blue)" strokeWidth="2" />}
      </svg>
      <div className="flex items-center gap-1.5">
        <Pick label="Voice to match" value={to} options={[["", "plain speech"], ...others]} onChange={setTo} className="min-w-0 flex-1" />
        <Button className="!py-0.5 text-xs" hint="Sets the bands so that this voice comes near that one" onClick={match}>
          Match
        </Button>
      </div>
    </figure>
  );
}
