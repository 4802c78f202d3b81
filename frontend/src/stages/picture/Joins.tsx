/** How pictures meet: a plain cut, a bridge that says beforehand what it is worth, or another way to go over. */
import { useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight, Repeat } from "lucide-react";
import { useRef, useState } from "react";
import { client, got, type Head } from "../../api/client";
import type { SchemaJoinField as Join, SchemaJudgedOut as Judged } from "../../api/schema";
import { clock, RATE } from "../../api/time";
import { failed } from "../../desk/desk";
import { select, usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import type { Shot } from "../../page/shots";
import { useTimeAt } from "../../page/times";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Colour, Line, Pick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";

interface JoinsProps {
  head: Head;
  shots: readonly Shot[];
  edit: Edit;
  reveal: (laid: number) => void;
}

const KINDS = [
  ["cut", "plain cut"],
  ["bridge", "bridge"],
  ["dissolve", "dissolve"],
  ["dip", "dip to a colour"],
  ["slide", "slide over"],
  ["push", "push away"],
] as const;

const PLACES = [
  ["before", "before the join"],
  ["across", "across it"],
  ["after", "after it"],
] as const;

/** A picture of the 25 a second that lengths of bridges are counted in. */
const FRAME = RATE / 25;

const USUAL: Join = { kind: "bridge", length: 8 * FRAME, where: "across", colour: "#000000", shift: 0 };

const judge = (edition_id: string, at: number, { length, where, shift }: Pair = USUAL, better = false) =>
  got(client.GET("/api/editions/{edition_id}/bridge", { params: { path: { edition_id }, query: { at, length, where, shift, better } } }));

interface Pair {
  length: number;
  where: Join["where"];
  shift: number;
}

export function Joins(props: JoinsProps) {
  const { head, shots, edit, reveal } = props;
  const cursor = usePlace((state) => state.cursor);
  const timeAt = useTimeAt();
  const places = [...new Set([...head.splices, ...shots.slice(1).map((shot) => shot.begin)])].sort((a, b) => a - b);
  const at = places.length ? places.reduce((best, each) => (Math.abs(each - cursor) < Math.abs(best - cursor) ? each : best)) : null;
  const go = (way: 1 | -1) => {
    const next = way > 0 ? places.find((each) => each > (at ?? 0)) : places.findLast((each) => each < (at ?? 0));
    if (next === undefined) return;
    select(null);
    player.seek(next);
    reveal(next);
  };
  return (
    <section aria-label="Joins">
      <Heading aside={at === null ? undefined : `${places.indexOf(at) + 1} of ${places.length} · ${clock(timeAt(at), 1)}`}>Join</Heading>
      {at === null ? (
        <p className="leading-snug text-soft">Pictures meet nowhere yet: one goes on from beginning to end.</p>
      ) : (
        <>
          <div className="flex gap-1.5">
            <Button className="!px-1.5" aria-label="Previous join" onClick={() => go(-1)}>
              <ChevronLeft size={14} />
            </Button>
            <Button hint="From a second before to a second after, in a loop" onClick={() => player.playAround(at, RATE, { loop: true })}>
              <Repeat size={14} /> See it
            </Button>
            <Button className="!px-1.5" aria-label="Next join" onClick={() => go(1)}>
              <ChevronRight size={14} />
            </Button>
          </div>
          <One key={at} {...{ head, edit, at }} />
        </>
      )}
      {head.splices.length > 0 && <All {...props} />}
    </section>
  );
}

function One({ head, edit, at }: { at: number; head: Head; edit: Edit }) {
  const known = head.joins.find((each) => each.at === at);
  const kind = known?.kind ?? "cut";
  const join: Join = known ?? USUAL;
  const put = (next: Partial<Join>) => edit.operate({ kind: "picture join", ats: [at], join: { kind: join.kind, length: join.length, where: join.where, colour: join.colour, shift: join.shift, ...next } });
  const cut = () => known && edit.operate({ kind: "picture join", ats: [at], join: null });
  const change = (next: (typeof KINDS)[number][0]) => {
    if (next === "cut") return cut();
    const usual = next === "bridge" ? 8 * FRAME : RATE / 2;
    put({ kind: next, ...((kind === "bridge") !== (next === "bridge") || !known ? { length: usual } : {}) });
  };
  return (
    <div className="mt-1.5 space-y-1.5">
      <Line label="the pictures">
        <Pick label="How the pictures meet" value={kind} options={KINDS} onChange={change} />
      </Line>
      {known && (
        <>
          <Line label="takes">
            {kind === "bridge" ? (
              <NumberField label="Length of the bridge in pictures" unit="pictures" least={4} most={16} value={Math.round(join.length / FRAME)} className="w-12" onChange={(frames) => put({ length: frames * FRAME })} />
            ) : (
              <NumberField label="Length of the join in seconds" unit="s" least={0.1} most={3} step={0.1} digits={2} value={join.length / RATE} className="w-14" onChange={(seconds) => put({ length: Math.round(seconds * RATE) })} />
            )}
          </Line>
          <Line label="lies">
            <Pick label="Where the join lies" value={join.where} options={PLACES} onChange={(where) => put({ where, shift: 0 })} />
          </Line>
          {kind === "dip" && <Colour label="through" value={join.colour} onChange={(colour) => put({ colour })} />}
          {!known.seen && <p className="leading-snug text-ochre">There is no room for it here now, so the pictures are cut.</p>}
        </>
      )}
      {(kind === "cut" || kind === "bridge") && <Worth {...{ head, edit, at, join, bridged: kind === "bridge" }} put={put} cut={cut} />}
    </div>
  );
}

const TOLD: Record<Judged["quality"], string> = {
  good: "A bridge is not seen here.",
  fair: "A bridge is seen by those who look for it.",
  poor: "A bridge would smear here: the two pictures differ too much.",
  none: "There is no room for a bridge here, or only one picture.",
};

interface WorthProps {
  head: Head;
  edit: Edit;
  at: number;
  join: Join;
  bridged: boolean;
  put: (next: Partial<Join>) => void;
  cut: () => unknown;
}

/** What a bridge is worth here, where it smears, and what would do instead. */
function Worth({ head, edit, at, join, bridged, put, cut }: WorthProps) {
  const { length, where, shift } = bridged ? join : USUAL;
  const found = useQuery({ queryKey: ["bridge", head.id, head.revision, at, length, where, shift], queryFn: () => judge(head.id, at, { length, where, shift }), retry: false, staleTime: Infinity });
  const [looking, setLooking] = useState(false);
  const better = () => {
    setLooking(true);
    void judge(head.id, at, { length, where, shift }, true)
      .then((best) => put({ kind: "bridge", length: best.join.length, where: best.join.where, shift: best.join.shift }), failed)
      .finally(() => setLooking(false));
  };
  const closer = () => {
    const end = head.splices.find((each) => each > at);
    cut();
    edit.operate({ kind: "punch in", ranges: [{ begin: at, end: end ?? at + 10 * RATE }], percent: 15, slowly: false });
  };
  const worth = found.data;
  if (found.isError) return <p className="leading-snug text-soft">{found.error.message}</p>;
  if (!worth) return <p className="text-soft">Looking how alike they are …</p>;
  return (
    <div role="status" className="rounded-md bg-side py-0.5 leading-snug">
      <p className={worth.quality === "poor" ? "text-ochre" : "text-soft"}>
        {TOLD[worth.quality]} {worth.quality !== "none" && <span className="font-mono text-xs">{Math.round(100 * worth.alike)} % alike</span>}
      </p>
      {worth.smears.length > 0 && (
        <svg viewBox="0 0 64 36" aria-label={`It would smear in ${worth.smears.length} places`} role="img" className="mt-1 h-9 rounded-sm border border-line bg-paper">
          {worth.smears.map(([x = 0, y = 0, width = 0, height = 0]) => (
            <rect key={`${x} ${y}`} x={64 * x} y={36 * y} width={64 * width} height={36 * height} fill="var(--ochre)" opacity={0.6} />
          ))}
        </svg>
      )}
      <div className="mt-1 flex flex-wrap gap-1.5">
        {!bridged && worth.quality !== "none" && (
          <Button onClick={() => put({ kind: "bridge", length: USUAL.length, where: USUAL.where, shift: 0 })} look={worth.quality === "good" ? "strong" : "plain"}>
            Bridge it
          </Button>
        )}
        {worth.quality !== "none" && worth.quality !== "good" && (
          <Button why={looking && "Looking …"} hint="Tries other lengths and places, within what was struck, too, and takes the one that is seen least" onClick={better}>
            {looking ? "Looking …" : "Find the best"}
          </Button>
        )}
        {worth.instead === "punch in" && (
          <Button hint="Closer behind the splice, so that the jump looks meant" onClick={closer}>
            Come closer instead
          </Button>
        )}
        {worth.instead === "cutaway" && (
          <Button hint="Selects the words around it: choose a picture under Cutaways" onClick={() => select({ anchor: at - RATE, focus: at + RATE })}>
            Cover it with a cutaway
          </Button>
        )}
      </div>
    </div>
  );
}

interface Looked {
  at: number;
  worth: Judged;
}

/** All splices that can be bridged, at once, with what was found of the others. */
function All({ head, edit, reveal }: JoinsProps) {
  const [looked, setLooked] = useState<readonly Looked[]>([]);
  const [running, setRunning] = useState(false);
  const stopped = useRef(false);
  const timeAt = useTimeAt();
  const run = async () => {
    stopped.current = false;
    setRunning(true);
    setLooked([]);
    const found: Looked[] = [];
    try {
      for (const at of head.splices) {
        if (stopped.current) break;
        found.push({ at, worth: await judge(head.id, at) });
        setLooked([...found]);
      }
      const good = found.filter(({ at, worth }) => worth.quality === "good" && !head.joins.some((each) => each.at === at)).map(({ at }) => at);
      if (good.length && !stopped.current) edit.operate({ kind: "picture join", ats: good, join: USUAL });
    } catch (error) {
      failed(error);
    }
    setRunning(false);
  };
  const rest = looked.filter(({ worth }) => worth.quality === "fair" || worth.quality === "poor");
  return (
    <div className="mt-1.5">
      {running ? (
        <Button onClick={() => (stopped.current = true)}>
          Stop: {looked.length} of {head.splices.length}
        </Button>
      ) : (
        <Button hint="Looks at every splice and bridges those where nothing is seen of it" onClick={() => void run()}>
          Bridge all that can be
        </Button>
      )}
      {!running && looked.length > 0 && (
        <p role="status" className="mt-1 leading-snug text-soft">
          {looked.filter(({ worth }) => worth.quality === "good").length} of {looked.length} can be bridged unseen.
        </p>
      )}
      {!running && rest.length > 0 && (
        <ul aria-label="Splices that show" className="mt-1 max-h-40 overflow-y-auto rounded-md border border-line bg-paper">
          {rest.map(({ at, worth }) => (
            <li key={at}>
              <button
                type="button"
                className="flex w-full justify-between gap-2 px-2 py-0.5 text-left hover:text-blue"
                onClick={() => {
                  player.seek(at);
                  reveal(at);
                }}
              >
                <span className="font-mono text-xs">{clock(timeAt(at), 1)}</span>
                <span className="text-soft">{worth.quality === "poor" ? `poor; ${worth.instead === "cutaway" ? "a cutaway" : "a punch-in"} would do` : "fair"}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
