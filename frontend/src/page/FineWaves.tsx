import { useQueries } from "@tanstack/react-query";
import { useEffect, useMemo, useRef } from "react";
import type { Head, PageWords, Voice } from "../api/client";
import { waveQuery } from "../api/queries";
import { heightAt, ink } from "./draw";
import { STAVE, TOP, type Segment } from "./fine";
import { inkOf, sounds, toRecording } from "./sources";

interface WavesProps {
  page: PageWords;
  parts: readonly Segment[];
  head: Head;
  voices: ReadonlyMap<string, Voice>;
  begin: number;
  perTick: number;
  width: number;
  staves: number;
}

/** Whose passage lies at a laid time. */
function voiceAt(passages: PageWords["passages"], laid: number) {
  let [first, last] = [0, passages.length - 1];
  while (first < last) {
    const middle = (first + last + 1) >> 1;
    if ((passages[middle]?.tokens[0]?.at ?? 0) <= laid) first = middle;
    else last = middle - 1;
  }
  return passages[first]?.voice;
}

/** The sound of a line, a stave for each voice. */
export function Waves({ page, parts, head, voices, begin, perTick, width, staves }: WavesProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const wanted = useMemo(
    () =>
      parts.flatMap((part) =>
        part.start < 0 || !part.source
          ? []
          : part.source.staves.map((stave, row) => {
              const from = Math.max(0, Math.round(toRecording(stave, part.start)));
              const to = Math.max(from + 1, Math.round(toRecording(stave, part.start + part.end - part.at)));
              const silentBefore = Math.max(0, -toRecording(stave, part.start));
              const left = (part.at - begin + silentBefore) * perTick;
              const points = Math.max(1, Math.min(4000, Math.round(to > from ? (part.end - part.at - silentBefore) * perTick : 1)));
              return { part, stave, row, from, to, left, points };
            }),
      ),
    [parts, begin, perTick],
  );
  const waves = useQueries({
    queries: wanted.map(({ stave, from, to, points }) => waveQuery(stave.recording, from, to, points)),
    combine: (all) => all.map((query) => query.data),
  });
  const known = waves.map((wave) => wave?.length ?? 0).join();
  useEffect(() => {
    const surface = canvas.current;
    const paint = surface?.getContext("2d");
    if (!surface || !paint) return;
    const density = Math.min(2, window.devicePixelRatio || 1);
    surface.width = width * density;
    surface.height = staves * STAVE * density;
    paint.scale(density, density);
    for (const [index, { part, stave, row, left, points }] of wanted.entries()) {
      const wave = waves[index];
      const middle = row * STAVE + STAVE / 2;
      paint.fillStyle = ink(inkOf(voices.get(stave.voice ?? "")));
      paint.globalAlpha = 0.25;
      paint.fillRect(left, middle - 0.5, points, 1);
      paint.globalAlpha = 1;
      for (let i = 0; wave && i < points; i++) {
        if (!sounds(stave, voiceAt(page.passages, begin + (left + i) / perTick))) continue;
        const tall = heightAt(head.levels, stave.recording, part.start + i / perTick) * (STAVE / 2 - 3);
        const least = ((wave[2 * i] ?? 0) / 127) * tall;
        const most = ((wave[2 * i + 1] ?? 0) / 127) * tall;
        paint.fillRect(left + i, middle - most, 1, Math.max(0.8, most - least));
      }
    }
    // `known` stands for the waves themselves, which are a new list at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [page, wanted, known, head.levels, width, staves, voices, begin, perTick]);
  return <canvas ref={canvas} aria-hidden className="pointer-events-none absolute left-0" style={{ top: TOP, width, height: staves * STAVE }} />;
}
