/** How shots follow who speaks: whether, how long each is at least, and when both are seen. */
import { useMemo, useState } from "react";
import type { Head } from "../../api/client";
import { RATE } from "../../api/time";
import type { Edit } from "../../page/edit";
import { useAllShots, type Shot } from "../../page/shots";
import { Button } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { Slider } from "../../ui/Slider";

interface FollowingProps {
  head: Head;
  edit: Edit;
  seen: readonly string[];
}

const STEP = RATE / 4;
/** Bars of a quarter second; longer shots stand in the last one. */
const BARS = 64;
const LEAST = RATE / 2;

const FRAMINGS = [
  ["side by side", "side by side"],
  ["stacked", "stacked"],
  ["large with small", "large with small"],
  ["grid", "in a grid"],
] as const;

export function Following({ head, edit, seen }: FollowingProps) {
  const rules = head.shots;
  // While the handle is dragged, what it would do is shown at once; shots follow when it is let go.
  const [dragged, setDragged] = useState<number | null>(null);
  const found = useAllShots(head, dragged);
  const set = (next: Partial<Head["shots"]>) => edit.operate({ kind: "shot rules", rules: { ...rules, ...next } });
  const shortest = dragged ?? rules.shortest;
  const commit = ([value = shortest]: number[]) => {
    setDragged(null);
    if (value !== rules.shortest) set({ shortest: Math.max(LEAST, value) });
  };
  const none = seen.length < 2 && !rules.follow && "Only one voice has a camera of its own. Say under Gather whom each camera shows";
  return (
    <>
      {found && rules.follow && (
        <div role="group" aria-label="Lengths of shots">
          <Histogram shots={found.shots} shortest={shortest} />
          <Slider handles={[{ label: "A shot lasts at least", value: shortest }]} min={0} max={BARS * STEP} step={STEP} onMove={([value = shortest]) => setDragged(Math.max(LEAST, value))} onSet={commit} />
          <p aria-live="polite" className="leading-snug text-soft">
            A shot lasts at least <b className="font-mono text-[12px] text-ink">{(shortest / RATE).toFixed(2)} s</b>: {found.shots.length} shots for {found.turns} turns of speech
          </p>
        </div>
      )}
      <div className="my-2 flex gap-1.5">
        <Button look={rules.follow ? "plain" : "strong"} className="flex-1" why={none} hint={rules.follow ? "Show the first camera all the time" : "From the words and their voices"} onClick={() => set({ follow: !rules.follow })}>
          {rules.follow ? "Follow nobody" : "Follow who speaks"}
        </Button>
      </div>
      {rules.follow && (
        <div className="space-y-1">
          <label className="flex items-center justify-between gap-2 text-soft">
            both when they laugh or alternate <Tick checked={rules.together} onChange={(together) => set({ together })} />
          </label>
          <label className="flex items-center justify-between gap-2 text-soft">
            who listens, in long answers <Tick checked={rules.reactions} onChange={(reactions) => set({ reactions })} />
          </label>
          <Line label="both are seen">
            <Pick label="How both are seen" value={rules.framing} options={[["single", "one of them"], ...FRAMINGS]} onChange={(framing) => set({ framing })} />
          </Line>
        </div>
      )}
    </>
  );
}

function Histogram({ shots, shortest }: { shots: readonly Shot[]; shortest: number }) {
  const counts = useMemo(() => {
    const found = new Array<number>(BARS).fill(0);
    for (const { at, until } of shots) {
      const index = Math.min(BARS - 1, Math.floor((until - at) / STEP));
      found[index] = (found[index] ?? 0) + 1;
    }
    return found;
  }, [shots]);
  const most = Math.max(1, ...counts);
  const tall = (count: number) => (count ? 4 + 36 * Math.sqrt(count / most) : 0);
  const x = (shortest / STEP) * 4;
  return (
    <svg viewBox={`0 0 ${BARS * 4} 54`} role="img" aria-label={`How long the ${shots.length} shots are, up to 16 seconds`} className="w-full">
      {counts.map((count, index) => (
        <rect key={index} x={index * 4 + 0.5} y={43 - tall(count)} width={3} height={tall(count)} className="fill-[var(--wave)]" />
      ))}
      <line x1={0} x2={BARS * 4} y1={43} y2={43} className="stroke-line" />
      <line x1={x} x2={x} y1={0} y2={43} className="stroke-blue" strokeDasharray="2 1.5" />
      {[0, 4, 8, 12].map((second) => (
        <text key={second} x={second * 16 + 1} y={53} className="fill-soft text-[10px]">
          {second} s
        </text>
      ))}
    </svg>
  );
}
