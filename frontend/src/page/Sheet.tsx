/** The page at its magnification, with its marks, and the bar above it that says what is shown. */
import { useMemo, type ReactNode } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Episode, Head, PageWords, Plan, Voice } from "../api/client";
import { useDesk } from "../desk/desk";
import { Button, Choice } from "../ui/controls";
import { Mishap } from "../ui/Mishap";
import type { Edit } from "./edit";
import { Fine } from "./Fine";
import { FineControls } from "./FineControls";
import { NO_MARKS, ROOMY, strengthsOf, type PageMark, type Strengths } from "./marks";
import { Page } from "./Page";
import { useMarks } from "./placed";
import type { Source } from "./sources";
import type { Tokens } from "./tokens";

interface SheetProps {
  episode: Episode;
  page: PageWords;
  head: Head;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  plan: Plan | undefined;
  /** The marks of the stage, and how much lanes matter to it. */
  marks: readonly PageMark[];
  lanes: Partial<Strengths> | undefined;
  edit: Edit;
  register: (reveal: (laid: number) => void) => void;
  /** What is told about the page in its bar. */
  children: ReactNode;
}

export function Sheet({ episode, plan, lanes, children, ...props }: SheetProps) {
  const magnification = useDesk((state) => state.magnification);
  const byHand = useDesk((state) => state.lanes);
  const { page, head, edit } = props;
  const marks = useMarks({ page, head, episode, plan, marks: props.marks, edit });
  const strengths = useMemo(() => strengthsOf(lanes, byHand), [lanes, byHand]);
  return (
    <>
      <SheetBar marks={marks} strengths={strengths}>
        {children}
      </SheetBar>
      <div className="min-h-0 flex-1">
        <Mishap key={magnification}>{magnification === "fine" ? <Fine {...props} plan={plan} marks={marks} strengths={strengths} /> : <Page {...props} plan={plan} marks={marks} strengths={strengths} />}</Mishap>
      </div>
    </>
  );
}

interface BarProps {
  marks?: readonly PageMark[];
  strengths?: Strengths;
  children?: ReactNode;
}

/** Magnification, what is shown, and what there is to tell. */
export function SheetBar({ marks = NO_MARKS, strengths, children }: BarProps) {
  const { magnification, showStruck, recordingTimes, lanes, set } = useDesk(
    useShallow(({ magnification, showStruck, recordingTimes, lanes, set }) => ({ magnification, showStruck, recordingTimes, lanes, set })),
  );
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 gap-y-1 py-2.5 pr-5 pl-[94px] text-soft">
      <Choice
        label="Magnification"
        value={magnification}
        options={[
          ["prose", "Prose"],
          ["score", "Score"],
          ["fine", "Fine"],
        ]}
        onChange={(next) => set({ magnification: next })}
      />
      {magnification === "fine" && <FineControls />}
      <Shown name="struck words" hint="H" shown={showStruck} onChange={(shown) => set({ showStruck: shown })} />
      {magnification !== "prose" &&
        ROOMY.filter(([lane]) => marks.some((mark) => mark.lane === lane)).map(([lane, name]) => (
          <Shown key={lane} name={name} shown={strengths?.[lane] !== "hidden"} onChange={(shown) => set({ lanes: { ...lanes, [lane]: shown } })} />
        ))}
      <Button look="quiet" hint="Shift+M" aria-pressed={recordingTimes} onClick={() => set({ recordingTimes: !recordingTimes })}>
        times: <b className="text-ink">{recordingTimes ? "recording" : "programme"}</b>
      </Button>
      {magnification !== "fine" && <span className="ml-auto">{children}</span>}
    </div>
  );
}

function Shown({ name, shown, hint, onChange }: { name: string; shown: boolean; hint?: string; onChange: (shown: boolean) => void }) {
  return (
    <Button look="quiet" aria-pressed={shown} hint={hint} onClick={() => onChange(!shown)}>
      {name}: <b className="text-ink">{shown ? "shown" : "hidden"}</b>
    </Button>
  );
}
