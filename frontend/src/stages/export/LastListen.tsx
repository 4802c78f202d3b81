import clsx from "clsx";
import { Check, Play } from "lucide-react";
import type { Head } from "../../api/client";
import { clock } from "../../api/time";
import { Button, Heading } from "../../ui/controls";
import { again, hear, pass, skip, useLastListen, useListening } from "./lastListen";

/** The places a listener would notice first; a second around each, three minutes at most for all of them. */
export function LastListen({ head, reveal }: { head: Head; reveal: (laid: number) => void }) {
  const found = useLastListen(head);
  const at = useListening((state) => state.at);
  if (!found) return null;
  const { places } = found;
  const left = places.filter((each) => !each.passed).length;
  const now = places.find((each) => each.key === at);
  const scene = { head, reveal };
  return (
    <section aria-label="Last listen">
      <Heading aside={places.length > 0 && `${places.length - left} of ${places.length} passed`}>Last listen</Heading>
      {places.length === 0 && <p className="text-soft">Nothing was cut and no word is in doubt: there is nothing to hear again.</p>}
      {places.length > 0 && left === 0 && <p className="text-green">Every place has been heard and passed.</p>}
      {left > 0 && !now && (
        <>
          <p className="leading-snug text-soft">The {places.length} places a listener is likeliest to notice, a second around each: {clock(found.length)} in all.</p>
          <Button className="mt-1.5 w-full" onClick={() => again(scene)}>
            <Play size={14} /> Hear them
          </Button>
        </>
      )}
      {now && (
        <div role="group" aria-label="Place being heard" className="space-y-1.5 rounded-md border border-blue bg-paper px-2.5 py-2">
          <p aria-live="polite" className="leading-snug">
            <span className="inline-block first-letter:uppercase">{now.why.join(", ")}</span> <span className="font-mono text-xs text-soft">{places.indexOf(now) + 1} of {places.length}</span>
          </p>
          <div className="flex flex-wrap gap-1.5">
            <Button look="strong" hint="A: it is good" onClick={() => pass(scene)}>
              <Check size={14} /> Pass
            </Button>
            <Button hint="Shift+Enter" onClick={() => again(scene)}>
              Again
            </Button>
            <Button hint="N: leave it for later" onClick={() => skip(scene)}>
              Next
            </Button>
            <Button look="quiet" onClick={() => hear(undefined, reveal)}>
              Stop
            </Button>
          </div>
          <p className="text-xs leading-snug text-soft">To mend it, cut or retype right here; a place that sounds otherwise comes back.</p>
        </div>
      )}
      {places.length > 0 && (
        <details className="mt-1.5">
          <summary className="cursor-pointer text-soft hover:text-ink">All places</summary>
          <ul aria-label="Places to hear" className="mt-1 max-h-56 overflow-y-auto">
            {places.map((each) => (
              <li key={each.key}>
                <button type="button" className={clsx("flex w-full items-center gap-2 px-1 py-0.5 text-left hover:text-blue", each.key === at && "text-blue")} onClick={() => hear(each, reveal)}>
                  <span className="w-14 font-mono text-xs text-soft">{clock(each.laid)}</span>
                  <span className="min-w-0 flex-1 truncate">{each.why.join(", ")}</span>
                  {each.passed && <Check size={13} aria-label="passed" className="text-green" />}
                </button>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
