/** What the clock says at a place of the page: programme time, as it is heard, or the recording's own on request. */
import { createContext, useContext, useMemo, type ReactNode } from "react";
import type { Plan } from "../api/client";
import { clock } from "../api/time";
import { useDesk } from "../desk/desk";
import { toProgramme } from "../player/places";
import { indexAt, type Tokens } from "./tokens";

/** Gives the time, in ticks, of a laid time. */
export type TimeAt = (laid: number) => number;

/** The time of the recording at a laid time; a rest that was put in has that of what stands before it. */
export function recordedAt({ list }: Tokens, laid: number): number {
  const token = list[indexAt(list, laid)];
  if (!token) return laid;
  if (token.t >= 0) return token.t + Math.min(Math.max(0, laid - token.at), token.len);
  const before = list.slice(0, indexAt(list, laid)).findLast((each) => each.t >= 0);
  return before ? before.t + before.len : 0;
}

const Times = createContext<TimeAt>((laid) => laid);

export function TimesOf({ plan, tokens, children }: { plan: Plan | undefined; tokens: Tokens; children: ReactNode }) {
  const recorded = useDesk((state) => state.recordingTimes);
  const timeAt = useMemo<TimeAt>(() => (recorded ? (laid) => recordedAt(tokens, laid) : plan ? (laid) => toProgramme(plan, laid) : (laid) => laid), [recorded, plan, tokens]);
  return <Times value={timeAt}>{children}</Times>;
}

export const useTimeAt = () => useContext(Times);

/** A place of the page as people read it. */
export function At({ laid, decimals }: { laid: number; decimals?: number }) {
  return clock(useTimeAt()(laid), decimals);
}
