import { useEffect, useRef } from "react";
import type { Plan } from "../api/client";
import { clock } from "../api/time";
import { desk } from "../desk/desk";
import { watchPlayhead } from "../desk/place";
import { toProgramme } from "../player/places";
import { player } from "../player/player";

/** The time at the playhead, written without drawing anything else anew. */
export function Now({ plan, className }: { plan: Plan | undefined; className?: string }) {
  const time = useRef<HTMLTimeElement>(null);
  useEffect(() => {
    const write = (laid: number) => {
      if (time.current) time.current.textContent = clock(plan ? timeNow(plan, laid) : 0, 1);
    };
    return watchPlayhead(write);
  }, [plan]);
  return <time ref={time} aria-label="Place" className={className} />;
}

/** Music before the first word and after the last stands at no word: while it is played, the player alone knows where it is. */
function timeNow(plan: Plan, laid: number): number {
  const heard = desk().playing ? player.heard() : null;
  return heard?.plan === plan ? heard.at : toProgramme(plan, laid);
}
