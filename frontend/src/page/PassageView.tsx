import { useQueries } from "@tanstack/react-query";
import clsx from "clsx";
import { memo, useEffect, useLayoutEffect, useMemo, useRef, useState, type CSSProperties } from "react";
import type { Head, Passage, Token, Voice } from "../api/client";
import { peaksQuery } from "../api/queries";
import { clock, RATE } from "../api/time";
import { select } from "../desk/place";
import { drawPassage, type Place } from "./draw";
import { isSound, UNSURE } from "./find";
import { Lanes, Margin, Sign, Washes } from "./Lanes";
import { measure, NO_LAYOUT, PASSAGE_COLUMNS, showLayout, type Layout } from "./layout";
import { between, roomOf, type PageMark, type Strengths } from "./marks";
import { inkOf, sounds, type Source } from "./sources";
import { useTimeAt } from "./times";
import { covered, indexAt, type Ranges } from "./tokens";
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
  /** All marks of the page, in order. */
  marks: readonly PageMark[];
  strengths: Strengths;
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
const doubts = (token: Token, muted: boolean) => [token.p < UNSURE && "unsure", token.loose && "time is not certain", token.over && "another voice speaks meanwhile", token.pickup && token.k === "w" && "said again", muted && "muted"].filter(Boolean).join(", ") || undefined;

export const PassageView = memo(function PassageView(props: PassageProps) {
  const { passage, voices, index, entering, score, strengths } = props;
  const first = passage.tokens[0];
  const last = passage.tokens.at(-1);
  const marks = useMemo(() => between(props.marks, first?.at ?? 0, last ? last.at + last.len : 0), [props.marks, first, last]);
  const [layout, setLayout] = useState(NO_LAYOUT);
  const timeAt = useTimeAt();
  const room = { above: score ? roomOf("above", marks, strengths) : 0, below: score ? roomOf("below", marks, strengths) : 0 };
  return (
    <div role="article" aria-label={[voices.get(passage.voice ?? "")?.shown, clock(timeAt(first?.at ?? 0))].filter(Boolean).join(", ")} className={clsx(PASSAGE_COLUMNS, "pb-3.5")}>
      <div className="pt-1 pr-3 text-right" style={{ marginTop: room.above }}>
        {passage.voice && <VoiceName voice={voices.get(passage.voice)} voices={voices} />}
        <span data-passage={index} title="Click to select the passage, drag to move it" className="cursor-grab font-mono text-xs text-soft hover:text-ink">
          {clock(timeAt(first?.at ?? 0))}
        </span>
      </div>
      <div className="min-w-0">
        {entering && <h3 className="mb-1 text-xs tracking-wide text-soft uppercase">{entering}</h3>}
        <Lines {...props} marks={marks} above={room.above} below={room.below} layout={layout} onLayout={setLayout} />
      </div>
      <div className={clsx("pointer-events-none relative", entering && "mt-5")}>
        <Margin marks={marks} layout={layout} strengths={strengths} />
      </div>
    </div>
  );
});

interface LinesProps extends PassageProps {
  above: number;
  below: number;
  layout: Layout;
  onLayout: (layout: Layout) => void;
}

/** The lines of a passage: its words, and what is drawn by their layout. */
function Lines(props: LinesProps) {
  const { passage, source, voices, struck, lifted, levels, marks, strengths, score, showStruck, above, below, layout, onLayout } = props;
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const staves = source?.staves ?? NO_STAVES;
  const peaks = useQueries({
    queries: staves.map((stave) => ({ ...peaksQuery(stave.recording), enabled: score })),
    combine: (all) => all.map((query) => query.data),
  });
  const lineNames = useMemo(() => [...new Set(passage.tokens.flatMap(({ pickup }) => (pickup ? [pickup] : [])))], [passage]);
  const linePeaks = useQueries({
    queries: lineNames.map((recording) => ({ ...peaksQuery(recording), enabled: score })),
    combine: (all) => all.map((query) => query.data),
  });
  const known = [...peaks, ...linePeaks].filter(Boolean).length;
  const signs = useMemo(() => marks.filter((mark) => mark.lane === "between" && mark.text), [marks]);
  const [width, setWidth] = useState(0);
  const [theme, setTheme] = useState(0);

  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => setWidth(Math.round(entry?.contentRect.width ?? 0)));
    if (box.current) watch.observe(box.current);
    const repaint = () => setTheme((count) => count + 1);
    window.addEventListener("themechange", repaint);
    void document.fonts.ready.then(repaint);
    return () => {
      watch.disconnect();
      window.removeEventListener("themechange", repaint);
    };
  }, []);

  // Measured when something changes that words are laid out by.
  const hidden = showStruck ? NONE : struck;
  useLayoutEffect(() => {
    if (!box.current) return;
    const { tokens } = passage;
    const measured = measure(box.current, (at) => tokens[indexAt(tokens, at)]?.len ?? 0);
    onLayout(measured);
    return showLayout(box.current, measured);
  }, [passage, staves, lifted, hidden, signs, score, width, theme, above, below, onLayout]);

  useLayoutEffect(() => {
    if (!score || !canvas.current) return;
    const { tokens } = passage;
    const places = layout.boxes.flatMap(({ at, left, top, width }): Place[] => {
      const token = tokens[indexAt(tokens, at)];
      if (!token || covered(lifted, at, at + token.len) >= token.len) return [];
      return [{ token, left, top, width, struck: 2 * covered(struck, at, at + token.len) >= token.len }];
    });
    const lines = new Map(lineNames.flatMap((name, index): [string, Uint8Array][] => (linePeaks[index] ? [[name, linePeaks[index]]] : [])));
    const drawn = staves.map((stave, index) => ({
      stave,
      peaks: sounds(stave, passage.voice) ? peaks[index] : undefined,
      ink: inkOf(voices.get(stave.voice ?? "")),
      lines: staves.length === 1 || stave.voice === passage.voice ? lines : undefined,
    }));
    drawPassage(canvas.current, layout.width, layout.height, places, drawn, levelsOf(levels, passage.recording));
    // `known` stands for the envelopes themselves, which are a new list at every render; `theme` for the inks.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [passage, staves, voices, struck, lifted, levels, score, known, layout, theme]);

  const drawn = { marks, layout, strengths, above, laidAt: tokenUnder };
  return (
    <div ref={box} dir="auto" className={clsx("relative", score ? "score" : "prose")} style={{ "--staves": staves.length || 1, "--above": `${above}px`, "--below": `${below}px` } as CSSProperties}>
      <Washes {...drawn} />
      {score && <canvas ref={canvas} className="pointer-events-none absolute top-0 left-0 z-10" aria-hidden />}
      <Words {...props} signs={signs} />
      <Lanes {...drawn} />
    </div>
  );
}

/** The laid time of the token at a point of the window. */
const tokenUnder = ({ clientX, clientY }: { clientX: number; clientY: number }) => {
  const token = document.elementFromPoint(clientX, clientY)?.closest<HTMLElement>("[data-token]");
  return token ? Number(token.dataset["at"]) : null;
};

interface WordsProps extends Pick<PassageProps, "passage" | "voices" | "struck" | "lifted" | "muted" | "picked" | "score"> {
  /** Symbols that stand in the line, before their words. */
  signs: readonly PageMark[];
}

const Words = memo(function Words({ passage, voices, struck, lifted, muted, picked, score, signs }: WordsProps) {
  const aside = asidesIn(passage);
  return passage.tokens.map((token, index) => {
    const out = covered(struck, token.at, token.at + token.len);
    if (lifted.length && covered(lifted, token.at, token.at + token.len) >= token.len) {
      const begins = index === 0 || covered(lifted, token.at - 1, token.at) === 0;
      return begins ? <LiftMark key={token.at} passage={passage} lifted={lifted} at={token.at} picked={picked !== null && token.at >= picked[0] && token.at < picked[1]} /> : null;
    }
    const rest = token.k === "r";
    const quiet = token.k === "w" && muted.length > 0 && covered(muted, token.at, token.at + token.len) >= token.len;
    return (
      <span
        key={token.at}
        data-token
        data-at={token.at}
        role={token.k === "w" ? (out >= token.len ? "deletion" : undefined) : "img"}
        aria-label={token.k === "w" ? undefined : out >= token.len ? `${spoken(token)}, struck` : spoken(token)}
        aria-description={token.k === "w" ? doubts(token, quiet) : undefined}
        title={quiet ? "Muted: its voice is not heard here" : token.over ? "Another voice speaks meanwhile" : undefined}
        className={clsx(
          "tok",
          rest && "rest",
          token.k === "s" && "sound",
          token.k === "w" && token.p < UNSURE && "unsure",
          token.loose && "loose",
          token.over && "over",
          token.pickup && "again",
          isSound(token.text) && "heard",
          out >= token.len ? "struck" : out > 0 && "part",
          quiet && "muted",
          CLOSE.test(token.text) && "close",
          picked && token.at >= picked[0] && token.at < picked[1] && "picked",
        )}
        style={rest && score ? { width: restWidth(token.len) } : undefined}
      >
        {signs.map((mark) => mark.begin === token.at && <Sign key={mark.id} mark={mark} />)}
        {rest ? restLabel({ ...token, len: out < token.len ? token.len - out : token.len }, score) : token.k === "s" ? SOUND : token.text}
        {aside.get(token.at)?.map(({ at, voice, text }) => (
          <span key={at} className="aside" style={{ color: `var(${inkOf(voices.get(voice ?? ""))})` }}>
            {voices.get(voice ?? "")?.shown}: {text}
          </span>
        ))}
      </span>
    );
  });
});

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

/** Scripts that are written without spaces. */
const CLOSE = /^[\p{Script=Han}\p{Script=Hiragana}\p{Script=Katakana}\p{Script=Thai}\p{Script=Lao}\p{Script=Khmer}\p{Script=Myanmar}]/u;

const NONE: Ranges = [];
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
