import { useQueries } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Head, PageWords, Plan, Voice } from "../api/client";
import { peaksQuery, useCurve } from "../api/queries";
import { clock, RATE } from "../api/time";
import { here, playhead, usePlace, watchPlayhead } from "../desk/place";
import { toLaid } from "../player/places";
import { player } from "../player/player";
import { useShots } from "./shots";
import type { ShownSelect } from "./selectsShown";
import { inkOf, toRecording, type Source } from "./sources";
import { useTimeAt } from "./times";
import { covered } from "./tokens";

const HEIGHT = 40;
/** So high shots are drawn at its upper edge. */
const SHOTS = 4;

/** The whole episode in one strip: where the sound is, what is struck, where one is. */
interface StripProps {
  page: PageWords;
  head: Head;
  sources: ReadonlyMap<string, Source>;
  plan: Plan | undefined;
  voices: readonly Voice[];
  selects: readonly ShownSelect[];
  reveal: (laid: number) => void;
}

export function Strip({ page, head, sources, plan, voices, selects, reveal }: StripProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const line = useRef<HTMLDivElement>(null);
  const shots = useShots(head);
  const [width, setWidth] = useState(0);
  const [theme, setTheme] = useState(0);
  const recordings = useMemo(() => {
    const names = new Set(page.passages.map((passage) => passage.recording));
    return [...new Set([...names].flatMap((name) => sources.get(name ?? "")?.staves.map((stave) => stave.recording) ?? []))];
  }, [page, sources]);
  const peaks = useQueries({
    queries: recordings.map((recording) => peaksQuery(recording)),
    combine: (all) => all.map((query) => query.data),
  });
  const known = peaks.map((each) => each?.length ?? 0).join();

  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(Math.round(entry?.contentRect.width ?? 0)));
    const box = canvas.current?.parentElement;
    if (box) watch.observe(box);
    const repaint = () => setTheme((count) => count + 1);
    window.addEventListener("themechange", repaint);
    return () => {
      watch.disconnect();
      window.removeEventListener("themechange", repaint);
    };
  }, []);

  useEffect(() => {
    const surface = canvas.current;
    const paint = surface?.getContext("2d");
    if (!surface || !paint || !width || !page.length) return;
    const scale = Math.min(2, window.devicePixelRatio || 1);
    surface.width = width * scale;
    surface.height = HEIGHT * scale;
    paint.scale(scale, scale);
    const style = getComputedStyle(document.documentElement);
    const wave = style.getPropertyValue("--wave");
    const red = style.getPropertyValue("--red");
    const stretches = page.passages.map((passage) => ({
      at: passage.at,
      shift: (passage.tokens[0]?.t ?? 0) - passage.at,
      staves: (sources.get(passage.recording ?? "")?.staves ?? []).map((stave) => ({
        stave,
        peaks: peaks[recordings.indexOf(stave.recording)],
      })),
    }));
    let index = 0;
    for (let x = 0; x < width; x++) {
      const begin = (x / width) * page.length;
      const end = ((x + 1) / width) * page.length;
      while (stretches[index + 1] && (stretches[index + 1]?.at ?? 0) <= begin) index++;
      const stretch = stretches[index];
      let most = 0;
      for (const { stave, peaks: envelope } of stretch?.staves ?? []) {
        const first = Math.floor(toRecording(stave, begin + (stretch?.shift ?? 0)) / (RATE / 100));
        const last = Math.max(first + 1, Math.floor(toRecording(stave, end + (stretch?.shift ?? 0)) / (RATE / 100)));
        for (let i = Math.max(0, first); i < last; i++) most = Math.max(most, envelope?.[i] ?? 0);
      }
      const out = covered(head.struck, begin, end) / (end - begin);
      const tall = Math.max(0.7, (most / 255) * (HEIGHT / 2));
      paint.fillStyle = out > 0.5 ? red : wave;
      paint.globalAlpha = out > 0.5 ? 0.55 : 0.9;
      paint.fillRect(x, HEIGHT / 2 - tall, 1, 2 * tall);
    }
    // Who is seen, above the sound; one picture from beginning to end needs no drawing.
    paint.globalAlpha = 1;
    for (const shot of shots.length > 1 ? shots : []) {
      paint.fillStyle = style.getPropertyValue(inkOf(voices.find((voice) => voice.id === shot.voices[0])));
      const x = Math.round((shot.begin / page.length) * width);
      paint.fillRect(x, 0, Math.max(1, Math.round((shot.end / page.length) * width) - x - 1), SHOTS);
    }
    // What is marked as good, below it.
    for (const select of selects) {
      paint.fillStyle = style.getPropertyValue(`--select-${select.colour}`);
      const x = Math.round((select.begin / page.length) * width);
      paint.fillRect(x, HEIGHT - SHOTS, Math.max(2, Math.round((select.end / page.length) * width) - x), SHOTS);
    }
    // `known` stands for the envelopes themselves, which are new lists at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [page, head.struck, width, theme, known, recordings, sources, shots, voices, selects]);

  useEffect(() => {
    const place = (laid: number) => {
      if (line.current) line.current.style.transform = `translateX(${page.length ? (laid / page.length) * width : 0}px)`;
    };
    return watchPlayhead(place);
  }, [page.length, width]);

  const timeAt = useTimeAt();
  const running = head.running_time;
  const slider = useRef<HTMLDivElement>(null);
  // Where one was put is said; what runs by itself is heard anyway.
  useEffect(() => {
    const tell = (cursor: number) => {
      slider.current?.setAttribute("aria-valuenow", String(Math.round(cursor / RATE)));
      slider.current?.setAttribute("aria-valuetext", `${clock(timeAt(cursor))} of ${clock(running)}`);
    };
    tell(here().cursor);
    return usePlace.subscribe(({ cursor }) => tell(cursor));
  }, [timeAt, running]);

  const jump = (event: PointerEvent<HTMLDivElement>) => {
    if (event.buttons !== 1) return;
    const box = event.currentTarget.getBoundingClientRect();
    const laid = Math.round(Math.min(1, Math.max(0, (event.clientX - box.left) / box.width)) * page.length);
    player.seek(laid);
    reveal(laid);
  };
  const step = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -5, ArrowRight: 5, PageUp: -30, PageDown: 30, Home: -Infinity, End: Infinity }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const laid = Math.min(page.length - 1, Math.max(0, playhead() + by * RATE));
    player.seek(laid);
    reveal(laid);
  };

  return (
    <footer className="col-span-3 grid grid-cols-[54px_1fr_60px] items-center gap-x-2.5 border-t border-line bg-rail px-3.5 py-2">
      <span className="font-mono text-xs">0:00</span>
      <div
        ref={slider}
        role="slider"
        aria-label="Place in the whole episode"
        aria-valuemin={0}
        aria-valuemax={Math.round(page.length / RATE)}
        aria-valuenow={0}
        title="Click to go there; arrow keys move by five seconds"
        tabIndex={0}
        className="relative h-10 cursor-pointer touch-none"
        onPointerDown={jump}
        onPointerMove={jump}
        onKeyDown={step}
      >
        <canvas ref={canvas} className="h-10 w-full" aria-hidden />
        <LoudnessLine {...{ head, plan }} length={page.length} width={width} />
        <div ref={line} className="absolute -top-1 -bottom-1 left-0 w-0.5 bg-ink" />
      </div>
      <span className="text-right font-mono text-xs">{clock(running)}</span>
    </footer>
  );
}

/** LUFS at the bottom and at the top of the strip. */
const [SOFT, LOUD] = [-40, -8];

/** Short-term loudness over the sound, where it was measured. */
function LoudnessLine({ head, plan, length, width }: { head: Head; plan: Plan | undefined; length: number; width: number }) {
  const curve = useCurve(head.id, head.revision, head.loudness.integrated !== null).data;
  if (!curve?.short_term.length || !plan || !length || !width) return null;
  const points = curve.short_term.map((value, index) => {
    const x = (toLaid(plan, (index + 1) * curve.every) / length) * width;
    return `${x.toFixed(1)},${(HEIGHT - (Math.max(0, Math.min(LOUD - SOFT, value - SOFT)) / (LOUD - SOFT)) * HEIGHT).toFixed(1)}`;
  });
  return (
    <svg aria-hidden className="pointer-events-none absolute inset-0" width={width} height={HEIGHT}>
      <title>Short-term loudness</title>
      <polyline points={points.join(" ")} fill="none" stroke="var(--blue)" strokeWidth="1.2" />
    </svg>
  );
}
