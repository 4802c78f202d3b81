import { useEffect, useRef } from "react";
import type { Plan } from "../api/client";
import { clock } from "../api/time";
import { watchPlayhead } from "../desk/place";
import { toProgramme } from "../player/places";

/** The time at the playhead, written without drawing anything else anew. */
export function Now({ plan, className }: { plan: Plan | undefined; className?: string }) {
  const time = useRef<HTMLTimeElement>(null);
  useEffect(() => {
    const write = (laid: number) => {
      if (time.current) time.current.textContent = clock(plan ? toProgramme(plan, laid) : 0, 1);
    };
    return watchPlayhead(write);
  }, [plan]);
  return <time ref={time} aria-label="Place" className={className} />;
}
