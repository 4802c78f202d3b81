import { useVirtualizer } from "@tanstack/react-virtual";
import clsx from "clsx";
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import type { Head, PageWords, Plan, Voice } from "../api/client";
import { desk, useDesk } from "../desk/desk";
import { here, playhead, put as arrived, select, usePlace } from "../desk/place";
import { may } from "../desk/rights";
import { player } from "../player/player";
import type { Edit } from "./edit";
import { drag } from "./drag";
import type { PageMark, Strengths } from "./marks";
import { Outer, OUTER, outside } from "./Outer";
import { PassageView } from "./PassageView";
import { useCaretSaid, useReading } from "./reading";
import type { Source } from "./sources";
import { useTimeAt } from "./times";
import { indexAt, selected, type Tokens } from "./tokens";

interface PageProps {
  page: PageWords;
  head: Head;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  plan: Plan | undefined;
  /** All marks of the page, in order, and how much their lanes matter now. */
  marks: readonly PageMark[];
  strengths: Strengths;
  edit: Edit;
  /** Keeps the place visible; called by keys that move it. */
  register: (reveal: (laid: number) => void) => void;
}

const tokenAt = (target: EventTarget | null) => {
  const element = target instanceof Element ? target.closest<HTMLElement>("[data-at]") : null;
  return element ? Number(element.dataset["at"]) : null;
};

/** A place between two tokens where something can be laid, and where on the page that is. */
interface Drop {
  laid: number;
  x: number;
  y: number;
  height: number;
}

function dropAt(event: { clientX: number; clientY: number }, scroller: HTMLElement | null, tokens: Tokens): Drop | null {
  const element = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>("[data-at]");
  const inner = scroller?.firstElementChild?.getBoundingClientRect();
  if (!element || !inner) return null;
  const box = element.getBoundingClientRect();
  const token = tokens.list[indexAt(tokens.list, Number(element.dataset["at"]))];
  if (!token) return null;
  const after = event.clientX > box.left + box.width / 2;
  return { laid: after ? token.at + token.len : token.at, x: (after ? box.right : box.left) - inner.left - 1, y: box.top - inner.top, height: box.height };
}

export function Page({ page, head, tokens, sources, voices, plan, marks, strengths, edit, register }: PageProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const score = useDesk((state) => state.magnification === "score");
  const showStruck = useDesk((state) => state.showStruck);
  const selection = usePlace((state) => state.selection);
  const picked = useMemo(() => selected(tokens.list, selection), [tokens, selection]);
  const several = useMemo(() => new Set(page.passages.map((passage) => passage.recording)).size, [page]);

  const shownBelow = score && strengths.below !== "hidden";
  const before = shownBelow && outside(plan, "before") > 0;
  const after = shownBelow && outside(plan, "after") > 0;

  // eslint-disable-next-line react-hooks/incompatible-library -- nothing is compiled here, so nothing can go stale
  const lines = useVirtualizer({
    count: page.passages.length,
    getScrollElement: () => scroller.current,
    estimateSize: (index) => {
      const count = page.passages[index]?.tokens.length ?? 1;
      const staves = sources.get(page.passages[index]?.recording ?? "")?.staves.length ?? 1;
      return score ? 30 + Math.ceil(count / 11) * (32 + 24 * staves) : 26 + Math.ceil(count / 16) * 28;
    },
    getItemKey: (index) => `${page.passages[index]?.at ?? index}-${score}`,
    overscan: 3,
    paddingStart: before ? OUTER : 0,
    paddingEnd: after ? OUTER : 0,
  });

  const reveal = useCallback(
    (laid: number) => {
      const passage = tokens.passage[indexAt(tokens.list, laid)] ?? 0;
      const at = tokens.list[indexAt(tokens.list, laid)]?.at;
      const element = scroller.current?.querySelector<HTMLElement>(`[data-at="${at}"]`);
      const view = scroller.current?.getBoundingClientRect();
      if (!element || !view) return lines.scrollToIndex(passage, { align: "center" });
      const place = element.getBoundingClientRect();
      if (place.top < view.top + 40 || place.bottom > view.bottom - 70) {
        scroller.current?.scrollBy({ top: place.top - view.top - view.height * 0.38, behavior: "smooth" });
      }
    },
    [lines, tokens],
  );
  useEffect(() => register(reveal), [register, reveal]);

  useReading(scroller, tokens, reveal);
  const said = useRef<HTMLParagraphElement>(null);
  useCaretSaid(said, tokens, useTimeAt());

  const [drop, setDrop] = useState<Drop | null>(null);
  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const margin = event.target instanceof Element ? event.target.closest<HTMLElement>("[data-passage]") : null;
    if (margin) {
      const passage = page.passages[Number(margin.dataset["passage"])];
      const [first, last] = [passage?.tokens[0], passage?.tokens.at(-1)];
      if (first && last) select({ anchor: first.at, focus: last.at });
      return carry(event);
    }
    const at = tokenAt(event.target);
    if (at === null) return select(null);
    if (event.shiftKey) return select({ anchor: here().selection?.anchor ?? tokens.list[indexAt(tokens.list, playhead())]?.at ?? at, focus: at });
    if (picked && at >= picked[0] && at < picked[1]) return carry(event, () => put(at));
    spread(event, at);
  };
  const put = (at: number) => {
    select(null);
    player.seek(at);
  };
  /** Select from a token to the one under the pointer. */
  const spread = (event: PointerEvent, anchor: number) => {
    put(anchor);
    const rest = tokens.list[indexAt(tokens.list, anchor)]?.k === "r";
    drag(event, {
      scroller: scroller.current,
      move: ({ clientX, clientY }) => {
        const at = tokenAt(document.elementFromPoint(clientX, clientY));
        const known = here().selection;
        if (at !== null && (known ? known.focus !== at : at !== anchor)) select({ anchor, focus: at });
      },
      // A click on a rest shows what can be done with it.
      drop: (moved) => !moved && rest && may("edit") && desk().set({ rest: anchor }),
      cancel: () => select(null),
    });
  };
  /** What is selected goes along with the pointer; a bar shows where it would be laid. A click does something else. */
  const carry = (event: PointerEvent, click?: () => void) => {
    if (!may("edit")) return click?.();
    let to: Drop | null = null;
    const show = (next: Drop | null) => {
      to = next;
      setDrop(next);
    };
    drag(event, {
      scroller: scroller.current,
      move: (point) => Math.hypot(point.clientX - event.clientX, point.clientY - event.clientY) > 6 && show(dropAt(point, scroller.current, tokens)),
      drop: (moved) => {
        setDrop(null);
        if (!moved) return click?.();
        const range = selected(tokens.list, here().selection);
        if (to && range) lay(range, to.laid);
      },
      cancel: () => setDrop(null),
    });
  };
  /** Lay a range elsewhere, and go along. */
  const lay = ([begin, end]: [number, number], to: number) => {
    if (to >= begin && to <= end) return;
    edit.operate({ kind: "move", ranges: [{ begin, end }], to }, () => {
      const now = to > begin ? to - (end - begin) : to;
      select({ anchor: now, focus: now + end - begin - 1 });
      arrived(now);
    });
  };
  /** A double click on a word retypes it. */
  const retype = (event: { target: EventTarget | null }) => {
    const at = tokenAt(event.target);
    const token = at === null ? undefined : tokens.list[indexAt(tokens.list, at)];
    if (!token) return;
    select({ anchor: token.at, focus: token.at });
    if (token.k === "w" && may("words")) desk().set({ retyping: true });
  };

  return (
    <>
    <p ref={said} aria-live="polite" className="sr-only" />
    <div
      ref={scroller}
      role="document"
      aria-label="Transcript"
      tabIndex={0}
      className={clsx("page h-full overflow-x-hidden overflow-y-auto px-2 pt-3 pb-24", !showStruck && "hidestruck")}
      onPointerDown={down}
      onDoubleClick={retype}
    >
      <div className="relative" style={{ height: lines.getTotalSize() }}>
        {drop && <div aria-hidden className="pointer-events-none absolute z-20 w-[3px] rounded bg-blue" style={{ left: drop.x, top: drop.y, height: drop.height }} />}
        {before && plan && <Outer side="before" {...{ head, plan, edit }} />}
        {after && plan && (
          <div className="absolute inset-x-0 bottom-0">
            <Outer side="after" {...{ head, plan, edit }} />
          </div>
        )}
        {lines.getVirtualItems().map((item) => {
          const passage = page.passages[item.index];
          if (!passage) return null;
          const last = passage.tokens.at(-1);
          const end = last ? last.at + last.len : passage.at;
          const inside = picked && picked[0] < end && picked[1] > passage.at ? picked : null;
          const entering =
            page.passages[item.index - 1]?.recording === passage.recording || several < 2
              ? undefined
              : sources.get(passage.recording ?? "")?.name;
          return (
            <div
              key={item.key}
              data-index={item.index}
              ref={lines.measureElement}
              className="absolute inset-x-0 top-0"
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <PassageView
                passage={passage}
                source={sources.get(passage.recording ?? "")}
                voices={voices}
                index={item.index}
                struck={head.struck}
                lifted={head.lifted}
                muted={head.muted}
                levels={head.levels}
                marks={marks}
                strengths={strengths}
                picked={inside}
                entering={entering}
                score={score}
                showStruck={showStruck}
              />
            </div>
          );
        })}
      </div>
    </div>
    </>
  );
}
