import { useQueries } from "@tanstack/react-query";
import clsx from "clsx";
import { memo, useEffect, useLayoutEffect, useRef, useState, type CSSProperties } from "react";
import type { Head, Passage, Token, Voice } from "../api/client";
import { peaksQuery } from "../api/queries";
import type { SchemaNoteOut as Note, SchemaSelectOut as Select } from "../api/schema";
import { clock, RATE } from "../api/time";
import { select } from "../desk/place";
import { drawPassage, type Place } from "./draw";
import { UNSURE } from "./find";
import { inkOf, type Source } from "./sources";
import type { Layer, TokenMark } from "./stage";
import { covered, indexAt, type Ranges } from "./tokens";
import { NoteMarks } from "./Notes";
import { SelectBrackets, washes } from "./Selects";
import { VoiceName } from "./VoiceName";

interface PassageProps {
  passage: Passage;
  source: Source | undefined;
  voices: ReadonlyMap<string, Voice>;
  index: number;
  struck: Ranges;
  lifted: Ranges;
  /** Words whose voice is muted. */
  muted: Ranges;
  levels: Head["levels"];
  episode: string;
  notes: readonly Note[];
  /** Stretches marked as good. */
  selects: readonly Select[];
  splices: readonly number[];
  /** What the stage draws over the words. */
  layer: Layer;
  /** What is selected of laid time, or null. */
  picked: readonly [number, number] | null;
  /** The name of the recording, where the page enters one. */
  entering: string | undefined;
  score: boolean;
  showStruck: boolean;
}

/** Padded, so that a long stretch without words has some width to show its sound in. */
const SOUND = "no words here yet".padEnd(60);
const restWidth = (len: number) => Math.round(Math.min(120, 8 + (22 * len) / RATE));

function restLabel(token: Token, score: boolean) {
  const seconds = token.len / RATE;
  if (score) return seconds >= 0.75 ? seconds.toFixed(1) : "";
  return seconds >= 0.75 ? `·${seconds.toFixed(1)}·` : " ";
}

/** What a rest or a stretch without words is to those who hear the page. */
const spoken = (token: Token) => (token.k === "r" ? `rest of ${(token.len / RATE).toFixed(1)} seconds` : SOUND.trim());

/** What there is to say about a word besides its text. */
const doubts = (token: Token, muted: boolean) => [token.p < UNSURE && "unsure", token.loose && "time is not certain", muted && "muted"].filter(Boolean).join(", ") || undefined;

export const PassageView = memo(function PassageView(props: PassageProps) {
  const { passage, voices, index, entering, episode, notes } = props;
  const words = useRef<HTMLDivElement>(null);
  const first = passage.tokens[0];
  return (
    <div role="article" aria-label={[voices.get(passage.voice ?? "")?.shown, clock(first?.at ?? 0)].filter(Boolean).join(", ")} className="grid grid-cols-[86px_1fr_24px] pb-3.5">
      <div className="pt-1 pr-3 text-right">
        {passage.voice && <VoiceName voice={voices.get(passage.voice)} voices={voices} />}
        <span data-passage={index} title="Click to select the passage, drag to move it" className="cursor-grab font-mono text-xs text-soft hover:text-ink">
          {clock(first?.at ?? 0)}
        </span>
      </div>
      <div ref={words} className="relative min-w-0">
        {entering && <h3 className="mb-1 text-xs tracking-wide text-soft uppercase">{entering}</h3>}
        <Line {...props} />
      </div>
      <NoteMarks episode={episode} passage={passage} notes={notes} box={words} />
    </div>
  );
});

function Line({ passage, source, voices, struck, lifted, muted, levels, selects, splices, layer, picked, score, showStruck }: PassageProps) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const staves = source?.staves ?? NO_STAVES;
  const peaks = useQueries({
    queries: staves.map((stave) => ({ ...peaksQuery(stave.recording), enabled: score })),
    combine: (all) => all.map((query) => query.data),
  });
  const known = peaks.filter(Boolean).length;
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
    for (const element of box.current.querySelectorAll<HTMLElement>(".tok")) {
      const token = passage.tokens[indexAt(passage.tokens, Number(element.dataset["at"]))];
      if (!token || !element.offsetWidth || element.classList.contains("lifted")) continue;
      places.push({
        token,
        left: element.offsetLeft,
        top: element.offsetTop,
        width: element.offsetWidth,
        struck: 2 * covered(struck, token.at, token.at + token.len) >= token.len,
      });
    }
    const drawn = staves.map((stave, index) => ({ stave, peaks: peaks[index], ink: inkOf(voices.get(stave.voice ?? "")) }));
    drawPassage(canvas.current, box.current.offsetWidth, box.current.offsetHeight, places, drawn, levelsOf(levels, passage.recording));
    // `known` stands for the envelopes themselves, which are a new list at every render.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [passage, staves, voices, struck, lifted, levels, score, known, width, showStruck]);
  const aside = asidesIn(passage);
  const washed = selects.length ? washes(passage, selects) : UNWASHED;

  return (
    <div ref={box} className={clsx("relative", score ? "score" : "prose")} style={{ "--staves": staves.length || 1 } as CSSProperties}>
      {score && <canvas ref={canvas} className="pointer-events-none absolute top-0 left-0 z-10" aria-hidden />}
      {passage.tokens.map((token, index) => {
        const out = covered(struck, token.at, token.at + token.len);
        if (lifted.length && covered(lifted, token.at, token.at + token.len) >= token.len) {
          const begins = index === 0 || covered(lifted, token.at - 1, token.at) === 0;
          return begins ? <LiftMark key={token.at} passage={passage} lifted={lifted} at={token.at} picked={picked !== null && token.at >= picked[0] && token.at < picked[1]} /> : null;
        }
        const rest = token.k === "r";
        const mark = layer.get(token.at);
        const quiet = token.k === "w" && muted.length > 0 && covered(muted, token.at, token.at + token.len) >= token.len;
        return (
          <span
            key={token.at}
            data-token
            data-at={token.at}
            data-colour={washed.get(token.at)?.colour}
            role={token.k === "w" ? (out >= token.len ? "deletion" : undefined) : "img"}
            aria-label={token.k === "w" ? undefined : out >= token.len ? `${spoken(token)}, struck` : spoken(token)}
            aria-description={token.k === "w" ? doubts(token, quiet) : undefined}
            title={quiet ? "Muted: its voice is not heard here" : undefined}
            className={clsx(
              "tok",
              rest && "rest",
              token.k === "s" && "sound",
              token.k === "w" && token.p < UNSURE && "unsure",
              token.loose && "loose",
              out >= token.len ? "struck" : out > 0 && "part",
              quiet && "muted",
              picked && token.at >= picked[0] && token.at < picked[1] && "picked",
              splices.includes(token.at) && "splice",
              mark?.className,
              washed.has(token.at) && "washed",
            )}
            style={rest && score ? { width: restWidth(token.len) } : undefined}
          >
            {mark?.sign && <Sign {...mark.sign} />}
            {rest ? restLabel({ ...token, len: out < token.len ? token.len - out : token.len }, score) : token.k === "s" ? SOUND : token.text}
            {aside.get(token.at)?.map(({ at, voice, text }) => (
              <span key={at} className="aside" style={{ color: `var(${inkOf(voices.get(voice ?? ""))})` }}>
                {voices.get(voice ?? "")?.shown}: {text}
              </span>
            ))}
          </span>
        );
      })}
      <SelectBrackets washed={washed} box={box} width={width} />
    </div>
  );
}

const UNWASHED: ReadonlyMap<number, Select> = new Map();

/** A sign of the stage before a word, which can be chosen by itself. */
function Sign({ text, label, title, at, choose }: NonNullable<TokenMark["sign"]>) {
  return (
    <span
      role="button"
      aria-label={label}
      title={title}
      data-at={at}
      className="unspoken"
      onPointerDown={(event) => {
        event.stopPropagation();
        choose();
      }}
    >
      {text}
    </span>
  );
}

/** Where something was lifted out of sight: it says what, and a click selects it. */
function LiftMark({ passage, lifted, at, picked }: { passage: Passage; lifted: Ranges; at: number; picked: boolean }) {
  const range = lifted.find(([, end = 0]) => end > at) ?? [at, at];
  const words = passage.tokens.filter((token) => token.k === "w" && token.at >= at && token.at < (range[1] ?? 0)).map((token) => token.text);
  const text = words.length > 40 ? `${words.slice(0, 40).join(" ")} …` : words.join(" ") || "a rest";
  return (
    <span
      data-token
      data-at={at}
      role="button"
      aria-label={`Lifted: ${text}`}
      title={`Lifted: ${text}\nClick and press B to put it back`}
      className={clsx("tok lifted", picked && "picked")}
      onPointerDown={(event) => {
        event.stopPropagation();
        select({ anchor: range[0] ?? at, focus: (range[1] ?? at) - 1, exact: false });
      }}
    >
      ‸
    </span>
  );
}

const levelsOf = (levels: Head["levels"], recording: string | null) => levels.filter((level) => level.recording === recording);

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
const NO_STAVES: Source["staves"] = [];

/** What others say under a passage, by the place of the token during which they begin. */
function asidesIn({ tokens, asides }: Passage): ReadonlyMap<number, Passage["asides"]> {
  const found = new Map<number, Passage["asides"]>();
  for (const aside of asides) {
    const at = tokens[indexAt(tokens, aside.at)]?.at ?? -1;
    found.set(at, [...(found.get(at) ?? []), aside]);
  }
  return found;
}
