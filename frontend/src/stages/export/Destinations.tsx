/** Where the episode goes: several destinations, and editions, at once, each checked before it runs. */
import { ChevronRight, Copy, Pencil, Plus } from "lucide-react";
import { useState } from "react";
import type { Episode, Head } from "../../api/client";
import { bytes, clock } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { may, useMay } from "../../desk/rights";
import { player } from "../../player/player";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Tick } from "../../ui/fields";
import { DestinationForm } from "./DestinationForm";
import { MENDS, send, useChecks, useDestinations, type Check, type Destination } from "./destinations";

interface DestinationsProps {
  episode: Episode;
  head: Head;
  reveal: (laid: number) => void;
}

export function Destinations({ episode, head, reveal }: DestinationsProps) {
  const [edits, exports] = [useMay("edit"), useMay("export")];
  const destinations = useDestinations(episode.show_id).filter((each) => exports || each.text);
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const [editions, setEditions] = useState<ReadonlySet<string>>(new Set());
  const [editing, setEditing] = useState<Destination | "new" | null>(null);
  const chosen = destinations.filter((each) => ticked.has(each.key));
  const others = episode.editions.filter((each) => each.id !== head.id);
  const going = [head.id, ...others.map((each) => each.id).filter((id) => editions.has(id))];
  const start = useEpisodeChange(episode.id, () => Promise.all(going.flatMap((edition) => chosen.map((each) => send(edition, each.key)))));
  const count = going.length * chosen.length;
  const run = () => start.run(undefined, () => setTicked(new Set()));
  if (editing) return <DestinationForm show={episode.show_id} known={editing === "new" ? undefined : editing} done={() => setEditing(null)} />;
  return (
    <>
      <Heading aside={clock(head.running_time)}>Destinations</Heading>
      <ul aria-label="Destinations" className="overflow-hidden rounded-md border border-line bg-paper">
        {destinations.map((each) => (
          <Row key={each.key} head={head} destination={each} ticked={ticked.has(each.key)} onTick={(on) => setTicked(toggled(ticked, each.key, on))} onEdit={edits ? () => setEditing(each) : undefined} reveal={reveal} />
        ))}
      </ul>
      {others.length > 0 && (
        <fieldset className="mt-2 flex flex-wrap gap-x-3 gap-y-1">
          <legend className="sr-only">Other editions that are exported, too</legend>
          <span className="text-soft">Also</span>
          {others.map((each) => (
            <label key={each.id} className="flex items-center gap-1">
              <Tick checked={editions.has(each.id)} onChange={(on) => setEditions(toggled(editions, each.id, on))} /> {each.name}
            </label>
          ))}
        </fieldset>
      )}
      <div className="mt-2 flex gap-1.5">
        <Button look="strong" className="flex-1" why={chosen.length === 0 ? "Tick where it goes first" : start.busy && "Being started"} onClick={run}>
          {count > 1 ? `Start ${count} exports` : "Start export"}
        </Button>
        {edits && (
          <Button onClick={() => setEditing("new")}>
            <Plus size={14} /> New destination
          </Button>
        )}
      </div>
    </>
  );
}

function toggled(known: ReadonlySet<string>, key: string, on: boolean): ReadonlySet<string> {
  const next = new Set(known);
  if (on) next.add(key);
  else next.delete(key);
  return next;
}

interface RowProps {
  head: Head;
  destination: Destination;
  ticked: boolean;
  onTick: (on: boolean) => void;
  onEdit: (() => void) | undefined;
  reveal: (laid: number) => void;
}

function Row({ head, destination, ticked, onTick, onEdit, reveal }: RowProps) {
  const found = useChecks(head, destination, ticked);
  const checks = found.data?.checks ?? [];
  const stops = checks.some((each) => each.stops);
  return (
    <li className="border-b border-line px-2.5 py-1 last:border-b-0">
      <div className="flex items-start gap-2">
        <label className="flex min-w-0 flex-1 items-baseline gap-2" title={destination.about}>
          <Tick checked={ticked} onChange={onTick} />
          <span className="min-w-0">
            <b className="font-semibold">{destination.name}</b>
            {ticked && destination.about && <span className="block text-xs leading-snug text-soft">{destination.about}</span>}
          </span>
        </label>
        {onEdit && <Button look="quiet" className="!px-1" aria-label={destination.own ? `Edit ${destination.name}` : `New destination like ${destination.name}`} hint={destination.own ? "Edit" : "New destination like this one"} onClick={onEdit}>
          {destination.own ? <Pencil size={13} /> : <Copy size={13} />}
        </Button>}
      </div>
      {ticked && (
        <div className="mt-1 ml-5 space-y-1">
          {found.isError && <Trouble>{found.error.message}</Trouble>}
          {found.data && checks.length === 0 && <p className="text-green">Nothing stands in its way{found.data.size > 0 && `, up to ${bytes(found.data.size)}`}.</p>}
          {checks.length > 0 && (
            <details open={stops}>
              <summary className={stops ? "cursor-pointer text-red" : "cursor-pointer text-ochre"}>{stops ? "It cannot go out like this" : `${checks.length} ${checks.length === 1 ? "thing" : "things"} to look at`}</summary>
              <ul aria-label={`To look at for ${destination.name}`} className="mt-1 space-y-1.5">
                {checks.map((each) => (
                  <Line key={each.kind} check={each} longest={destination.longest} reveal={reveal} />
                ))}
              </ul>
            </details>
          )}
        </div>
      )}
    </li>
  );
}

/** What was found, with a way to its places one after the other, and to where it is mended. */
function Line({ check, longest, reveal }: { check: Check; longest: number; reveal: (laid: number) => void }) {
  const [number, setNumber] = useState(0);
  const mend = MENDS[check.kind];
  const go = () => {
    const at = check.places[number % check.places.length];
    if (at === undefined) return;
    setNumber(number + 1);
    player.seek(at);
    reveal(at);
  };
  const open = () => {
    if (check.kind === "too long") desk().say(`At most ${clock(longest * 48_000)} for this destination: set that as its length`);
    if (mend) desk().set({ stage: mend[0].id });
  };
  return (
    <li className="leading-snug">
      {check.told}
      <span className="flex flex-wrap gap-1">
        {check.places.length > 0 && (
          <Button look="quiet" className="!px-1 !py-0" onClick={go}>
            <ChevronRight size={13} /> {check.places.length > 1 ? `Go there (${(number % check.places.length) + 1} of ${check.count})` : "Go there"}
          </Button>
        )}
        {mend && may(mend[0].needs) && (
          <Button look="quiet" className="!px-1 !py-0" onClick={open}>
            {mend[1]}
          </Button>
        )}
      </span>
    </li>
  );
}
