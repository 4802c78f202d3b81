import { useVirtualizer } from "@tanstack/react-virtual";
import clsx from "clsx";
import { useCallback, useEffect, useMemo, useRef, type PointerEvent } from "react";
import type { Head, PageWords, Voice } from "../api/client";
import { desk, useDesk } from "../app/desk";
import { player } from "../player/player";
import { PassageView, splicesIn } from "./PassageView";
import type { Source } from "./sources";
import { indexAt, selected, type Tokens } from "./tokens";

interface PageProps {
  page: PageWords;
  head: Head;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  /** Keeps the place visible; called by keys that move it. */
  register: (reveal: (laid: number) => void) => void;
}

const tokenAt = (target: EventTarget | null) => {
  const element = target instanceof Element ? target.closest<HTMLElement>("[data-at]") : null;
  return element ? Number(element.dataset["at"]) : null;
};

export function Page({ page, head, tokens, sources, voices, register }: PageProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const score = useDesk((state) => state.magnification === "score");
  const showStruck = useDesk((state) => state.showStruck);
  const selection = useDesk((state) => state.selection);
  const playing = useDesk((state) => state.playing);
  const nowIndex = useDesk((state) => indexAt(tokens.list, state.playhead));
  const now = tokens.list[nowIndex]?.at ?? -1;
  const nowPassage = tokens.passage[nowIndex] ?? 0;
  const picked = useMemo(() => selected(tokens.list, selection), [tokens, selection]);
  const several = useMemo(() => new Set(page.passages.map((passage) => passage.recording)).size, [page]);
  const splices = useMemo(
    () => page.passages.map((passage) => splicesIn(passage.tokens, head.splices)),
    [page, head.splices],
  );

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

  // Reading along: the spoken word is kept in view.
  useEffect(() => {
    if (playing) reveal(now);
  }, [playing, now, reveal]);

  const dragging = useRef(false);
  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const at = tokenAt(event.target);
    if (at === null) return desk().set({ selection: null });
    if (event.shiftKey) {
      const anchor = desk().selection?.anchor ?? now;
      return desk().set({ selection: { anchor, focus: at } });
    }
    dragging.current = true;
    desk().set({ selection: null });
    player.seek(at);
  };
  const move = (event: PointerEvent) => {
    if (!dragging.current) return;
    if (event.buttons === 0) return void (dragging.current = false);
    const at = tokenAt(document.elementFromPoint(event.clientX, event.clientY));
    if (at === null) return;
    const known = desk().selection;
    const anchor = known?.anchor ?? tokenAt(event.target) ?? at;
    if (known ? known.focus !== at : at !== desk().playhead) {
      desk().set({ selection: { anchor: known?.anchor ?? (desk().playing ? anchor : desk().playhead), focus: at } });
    }
  };
  const passageAround = (event: { target: EventTarget | null }) => {
    const at = tokenAt(event.target);
    if (at !== null) desk().set({ selection: { anchor: at, focus: at } });
  };

  return (
    <div
      ref={scroller}
      role="application"
      aria-label="Transcript"
      aria-roledescription="transcript"
      tabIndex={0}
      className={clsx("page h-full overflow-x-hidden overflow-y-auto px-2 pt-3 pb-24", !showStruck && "hidestruck")}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={() => (dragging.current = false)}
      onDoubleClick={passageAround}
    >
      <div className="relative" style={{ height: lines.getTotalSize() }}>
        {lines.getVirtualItems().map((item) => {
          const passage = page.passages[item.index];
          if (!passage) return null;
          const last = passage.tokens.at(-1);
          const end = last ? last.at + last.len : passage.at;
          const here = picked && picked[0] < end && picked[1] > passage.at ? picked : null;
          const entering =
            page.passages[item.index - 1]?.recording === passage.recording || several < 2
              ? undefined
              : sources.get(passage.recording)?.name;
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
                source={sources.get(passage.recording)}
                voices={voices}
                struck={head.struck}
                splices={splices[item.index] ?? []}
                picked={here}
                now={item.index === nowPassage ? now : -1}
                entering={entering}
                score={score}
                showStruck={showStruck}
              />
            </div>
          );
        })}
      </div>
    </div>
  );
}
