import { useQuery } from "@tanstack/react-query";
import clsx from "clsx";
import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Passage, Token } from "../api/client";
import { peaksQuery } from "../api/queries";
import { clock, RATE } from "../api/time";
import { drawPassage, type Place } from "./draw";
import { covered, indexAt, type Ranges } from "./tokens";

interface PassageProps {
  passage: Passage;
  struck: Ranges;
  splices: readonly number[];
  /** What is selected of laid time, or null. */
  picked: readonly [number, number] | null;
  /** Place of the token that is spoken or that the caret stands on, when it is in this passage; else -1. */
  now: number;
  /** The name of the recording, where the page enters one. */
  entering: string | undefined;
  score: boolean;
  showStruck: boolean;
}

const UNSURE = 0.5;
/** Padded, so that a long stretch without words has some width to show its sound in. */
const SOUND = "no words here yet".padEnd(60);
const restWidth = (len: number) => Math.round(Math.min(120, 8 + (22 * len) / RATE));

function restLabel(token: Token, score: boolean) {
  const seconds = token.len / RATE;
  if (score) return seconds >= 0.75 ? seconds.toFixed(1) : "";
  return seconds >= 0.75 ? `·${seconds.toFixed(1)}·` : " ";
}

function spoken(token: Token) {
  if (token.k === "r") return `rest of ${(token.len / RATE).toFixed(1)} seconds`;
  return token.k === "s" ? SOUND.trim() : undefined;
}

export const PassageView = memo(function PassageView(props: PassageProps) {
  const { passage, struck, splices, picked, now, entering, score, showStruck } = props;
  const first = passage.tokens[0];
  return (
    <div className="grid grid-cols-[86px_1fr_24px] pb-3.5">
      <div className="pt-1 pr-3 text-right">
        {passage.voice && <b className="block text-[12.5px]">{passage.voice}</b>}
        <span className="font-mono text-[10.5px] text-soft">{clock(first?.at ?? 0)}</span>
      </div>
      <div className="min-w-0">
        {entering && <h3 className="mb-1 text-[11px] tracking-wide text-soft uppercase">{entering}</h3>}
        <Line {...{ passage, struck, splices, picked, now, score, showStruck }} />
      </div>
    </div>
  );
});

type LineProps = Omit<PassageProps, "entering">;

function Line({ passage, struck, splices, picked, now, score, showStruck }: LineProps) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const peaks = useQuery({ ...peaksQuery(passage.recording), enabled: score }).data;
  const [width, setWidth] = useState(0);

  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(Math.round(entry?.contentRect.width ?? 0)));
    if (box.current) watch.observe(box.current);
    const repaint = () => setWidth((known) => known - 0.001);
    window.addEventListener("themechange", repaint);
    void document.fonts.ready.then(repaint);
    return () => {
      watch.disconnect();
      window.removeEventListener("themechange", repaint);
    };
  }, []);

  useLayoutEffect(() => {
    if (!score || !box.current || !canvas.current) return;
    const places: Place[] = [];
    for (const [index, element] of [...box.current.querySelectorAll<HTMLElement>(".tok")].entries()) {
      const token = passage.tokens[index];
      if (!token || !element.offsetWidth) continue;
      places.push({
        token,
        left: element.offsetLeft,
        top: element.offsetTop,
        width: element.offsetWidth,
        struck: 2 * covered(struck, token.at, token.at + token.len) >= token.len,
        now: token.at === now,
      });
    }
    drawPassage(canvas.current, box.current.offsetWidth, box.current.offsetHeight, places, peaks);
  }, [passage, struck, now, score, peaks, width, showStruck]);

  return (
    <div ref={box} className={clsx("relative", score ? "score" : "prose")}>
      {score && <canvas ref={canvas} className="pointer-events-none absolute top-0 left-0 z-10" aria-hidden />}
      {passage.tokens.map((token) => {
        const out = covered(struck, token.at, token.at + token.len);
        const rest = token.k === "r";
        return (
          <span
            key={token.at}
            data-at={token.at}
            aria-label={spoken(token)}
            className={clsx(
              "tok",
              rest && "rest",
              token.k === "s" && "sound",
              token.k === "w" && token.p < UNSURE && "unsure",
              out >= token.len ? "struck" : out > 0 && "part",
              picked && token.at >= picked[0] && token.at < picked[1] && "picked",
              token.at === now && "now",
              splices.includes(token.at) && "splice",
            )}
            style={rest && score ? { width: restWidth(token.len) } : undefined}
          >
            {rest ? restLabel(token, score) : token.k === "s" ? SOUND : token.text}
          </span>
        );
      })}
    </div>
  );
}

/** The splices that fall on tokens of a passage, as places of tokens; most passages have none. */
export function splicesIn(tokens: readonly Token[], splices: readonly number[]): readonly number[] {
  const first = tokens[0]?.at ?? 0;
  const last = tokens.at(-1);
  const end = last ? last.at + last.len : 0;
  let low = 0;
  let high = splices.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((splices[middle] ?? 0) < first) low = middle + 1;
    else high = middle;
  }
  const inside: number[] = [];
  for (let at = splices[low]; at !== undefined && at < end; at = splices[++low]) inside.push(at);
  return inside.length ? inside.map((at) => tokens[indexAt(tokens, at)]?.at ?? -1) : NONE;
}

const NONE: readonly number[] = [];
