import { useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Repeat } from "lucide-react";
import type { Head } from "../../api/client";
import { client, got } from "../../api/client";
import type { SchemaSpliceOut as Splice } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { spliceNear } from "../../page/go";
import { select, usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { player } from "../../player/player";
import { useTimeAt } from "../../page/times";
import { Button, Choice, Heading } from "../../ui/controls";
import { NumberField } from "../../ui/NumberField";

const MS = RATE / 1000;

/** The splice at the playhead: heard alone, its edges nudged, its crossfade set, sound before or after the picture. */
export function SpliceTools({ head, edit, reveal }: { head: Head; edit: Edit; reveal: (laid: number) => void }) {
  // Not at the running playhead: a splice that is being heard and nudged is not to slip away.
  const at = spliceNear(head, usePlace((state) => state.selection ?? state.cursor));
  const splice = useQuery({
    queryKey: ["splice", head.id, head.revision, at],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/splice", { params: { path: { edition_id: head.id }, query: { at: at ?? 0 } } })),
    enabled: at !== undefined,
    placeholderData: (known) => known,
  }).data;
  const timeAt = useTimeAt();
  if (at === undefined) return null;
  const go = (way: 1 | -1) => {
    const next = way > 0 ? head.splices.find((each) => each > at) : head.splices.findLast((each) => each < at);
    if (next === undefined) return;
    select(null);
    player.seek(next);
    reveal(next);
  };
  return (
    <section aria-label="Splice">
      <Heading aside={`${head.splices.indexOf(at) + 1} of ${head.splices.length} · ${clock(timeAt(at), 1)}`}>Splice</Heading>
      <div className="flex gap-1.5">
        <Button className="!px-1.5" aria-label="Previous splice" hint="Shift+N" onClick={() => go(-1)}>
          <ChevronLeft size={14} />
        </Button>
        <Button hint="From a second before to a second after, in a loop (S)" onClick={() => player.playAround(at, RATE, { loop: true })}>
          <Repeat size={14} /> Hear it
        </Button>
        <Button className="!px-1.5" aria-label="Next splice" hint="N" onClick={() => go(1)}>
          <ChevronRight size={14} />
        </Button>
      </div>
      {splice && <Settings splice={splice} edit={edit} />}
    </section>
  );
}

function Settings({ splice, edit }: { splice: Splice; edit: Edit }) {
  const { at } = splice;
  const heard = (after: Head) => {
    const near = after.splices.reduce((best, each) => (Math.abs(each - at) < Math.abs(best - at) ? each : best), at);
    player.whenReady(after.revision, () => player.playAround(near, RATE));
  };
  const set = (change: { crossfade?: number; shape?: Splice["shape"]; lead?: number }) =>
    edit.operate({ kind: "splice", at, crossfade: null, shape: null, lead: null, ...change }, heard);
  const trim = (before: number, after: number) => edit.operate({ kind: "trim", at, before, after }, heard);
  const slip = (by: number) => edit.operate({ kind: "slip", at, by }, heard);
  return (
    <div className="mt-2 space-y-1.5">
      <Nudge label="End before it" shift={(by) => trim(by, 0)} />
      <Nudge label="Start after it" shift={(by) => trim(0, by)} />
      <Nudge label="Both (roll)" shift={(by) => trim(by, by)} />
      <Nudge label="What follows (slip)" shift={slip} />
      <Milliseconds label="Crossfade" value={splice.crossfade} least={0} most={2000} set={(crossfade) => set({ crossfade })} />
      <div className="flex items-center justify-between gap-2">
        <span className="text-soft">Shape</span>
        <Choice
          label="Shape of the crossfade"
          value={splice.shape}
          options={[
            ["equal power", "equal power"],
            ["linear", "linear"],
          ]}
          onChange={(shape) => set({ shape })}
        />
      </div>
      <Milliseconds label="Sound before picture" value={splice.lead} least={-5000} most={5000} set={(lead) => set({ lead })} />
      {splice.by_hand && (
        <Button look="quiet" className="!px-1" onClick={() => set({})}>
          Reset this splice
        </Button>
      )}
    </div>
  );
}

/** Moves an edge by 10 ms, or by a frame. */
function Nudge({ label, shift }: { label: string; shift: (by: number) => void }) {
  return (
    <div className="flex items-center justify-between gap-1">
      <span className="min-w-0 truncate text-soft">{label}</span>
      <span className="flex gap-0.5">
        {([-40, -10, 10, 40] as const).map((by) => (
          <Button key={by} className="!px-1.5 !py-0 font-mono text-xs" aria-label={`${label}: ${by} ms`} hint={Math.abs(by) === 40 ? "a frame of 25 a second" : "10 ms"} onClick={() => shift(by * MS)}>
            {by > 0 ? `+${by}` : `−${-by}`}
          </Button>
        ))}
      </span>
    </div>
  );
}

/** A time given in ticks and written in milliseconds. */
function Milliseconds({ label, value, least, most, set }: { label: string; value: number; least: number; most: number; set: (ticks: number) => void }) {
  return (
    <div className="flex items-center justify-between gap-2 text-soft">
      {label}
      <NumberField label={`${label} in milliseconds`} unit="ms" value={value / MS} least={least} most={most} step={10} className="w-16" onChange={(wanted) => set(wanted * MS)} />
    </div>
  );
}
