import { useVirtualizer } from "@tanstack/react-virtual";
import clsx from "clsx";
import { useCallback, useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import type { Episode, Head, PageWords, Voice } from "../api/client";
import { desk, useDesk } from "../desk/desk";
import { here, playhead, put, select, usePlace } from "../desk/place";
import { player } from "../player/player";
import type { Edit } from "./edit";
import { PassageView, splicesIn } from "./PassageView";
import { useCaretSaid, useReading } from "./reading";
import type { Source } from "./sources";
import type { Layer } from "./stage";
import { indexAt, selected, type Tokens } from "./tokens";

interface PageProps {
  page: PageWords;
  head: Head;
  tokens: Tokens;
  sources: ReadonlyMap<string, Source>;
  voices: ReadonlyMap<string, Voice>;
  episode: Episode;
  /** What the stage draws over the words. */
  layer: Layer;
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

function dropAt(event: PointerEvent, scroller: HTMLElement | null, tokens: Tokens): Drop | null {
  const element = document.elementFromPoint(event.clientX, event.clientY)?.closest<HTMLElement>("[data-at]");
  const inner = scroller?.firstElementChild?.getBoundingClientRect();
  if (!element || !inner) return null;
  const box = element.getBoundingClientRect();
  const token = tokens.list[indexAt(tokens.list, Number(element.dataset["at"]))];
  if (!token) return null;
  const after = event.clientX > box.left + box.width / 2;
  return { laid: after ? token.at + token.len : token.at, x: (after ? box.right : box.left) - inner.left - 1, y: box.top - inner.top, height: box.height };
}

export function Page({ page, head, tokens, sources, voices, episode, layer, edit, register }: PageProps) {
  const scroller = useRef<HTMLDivElement>(null);
  const score = useDesk((state) => state.magnification === "score");
  const showStruck = useDesk((state) => state.showStruck);
  const selection = usePlace((state) => state.selection);
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

  useReading(scroller, tokens, reveal);
  const said = useRef<HTMLParagraphElement>(null);
  useCaretSaid(said, tokens);

  const dragging = useRef(false);
  /** A selection that was taken hold of: where, and whether it has been moved since. */
  const held = useRef<{ x: number; y: number; moving: boolean } | null>(null);
  const [drop, setDrop] = useState<Drop | null>(null);
  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    const margin = event.target instanceof Element ? event.target.closest<HTMLElement>("[data-passage]") : null;
    if (margin) {
      const passage = page.passages[Number(margin.dataset["passage"])];
      const [first, last] = [passage?.tokens[0], passage?.tokens.at(-1)];
      if (first && last) select({ anchor: first.at, focus: last.at });
      held.current = { x: event.clientX, y: event.clientY, moving: false };
      return;
    }
    const at = tokenAt(event.target);
    if (at === null) return select(null);
    if (event.shiftKey) {
      const anchor = here().selection?.anchor ?? tokens.list[indexAt(tokens.list, playhead())]?.at ?? at;
      return select({ anchor, focus: at });
    }
    if (picked && at >= picked[0] && at < picked[1]) {
      held.current = { x: event.clientX, y: event.clientY, moving: false };
      return;
    }
    dragging.current = true;
    select(null);
    player.seek(at);
  };
  const move = (event: PointerEvent) => {
    if (held.current) return carry(event);
    if (!dragging.current) return;
    if (event.buttons === 0) return void (dragging.current = false);
    const at = tokenAt(document.elementFromPoint(event.clientX, event.clientY));
    if (at === null) return;
    const known = here().selection;
    const anchor = known?.anchor ?? tokenAt(event.target) ?? at;
    if (known ? known.focus !== at : at !== playhead()) {
      select({ anchor: known?.anchor ?? (desk().playing ? anchor : playhead()), focus: at });
    }
  };
  /** What is selected goes along with the pointer; a bar shows where it would be laid. */
  const carry = (event: PointerEvent) => {
    const hold = held.current;
    if (!hold || event.buttons === 0) return;
    hold.moving ||= Math.hypot(event.clientX - hold.x, event.clientY - hold.y) > 6;
    if (hold.moving) setDrop(dropAt(event, scroller.current, tokens));
  };
  const up = (event: PointerEvent) => {
    dragging.current = false;
    const hold = held.current;
    held.current = null;
    setDrop(null);
    if (!hold) return;
    if (!hold.moving) {
      const at = tokenAt(event.target);
      if (at !== null) {
        select(null);
        player.seek(at);
      }
      return;
    }
    const range = selected(tokens.list, here().selection);
    if (!drop || !range || (drop.laid >= range[0] && drop.laid <= range[1])) return;
    const length = range[1] - range[0];
    const to = drop.laid;
    edit.operate({ kind: "move", ranges: [{ begin: range[0], end: range[1] }], to }, () => {
      const begin = to > range[0] ? to - length : to;
      select({ anchor: begin, focus: begin + length - 1 });
      put(begin);
    });
  };
  const passageAround = (event: { target: EventTarget | null }) => {
    const at = tokenAt(event.target);
    if (at !== null) select({ anchor: at, focus: at });
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
      onPointerMove={move}
      onPointerUp={up}
      onDoubleClick={passageAround}
    >
      <div className="relative" style={{ height: lines.getTotalSize() }}>
        {drop && <div aria-hidden className="pointer-events-none absolute z-20 w-[3px] rounded bg-blue" style={{ left: drop.x, top: drop.y, height: drop.height }} />}
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
                episode={episode.id}
                notes={episode.notes}
                selects={episode.selects}
                layer={layer}
                splices={splices[item.index] ?? []}
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
