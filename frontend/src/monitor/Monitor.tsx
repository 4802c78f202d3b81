import clsx from "clsx";
import { useEffect, useRef, type ReactNode } from "react";
import type { Layer, Plan } from "../api/client";
import { RATE } from "../api/time";
import { desk } from "../desk/desk";
import { placeIn, seenAt } from "../player/places";
import { player } from "../player/player";

interface MonitorProps {
  episodeId: string;
  title: string;
  plan: Plan | undefined;
  /** The recordings whose light picture can be shown. */
  pictures: ReadonlySet<string>;
  /** What is drawn over the picture. */
  children?: ReactNode;
}

/** The picture of a drawn layer: the episode's card, or words. */
const cardOf = (episode: string, text: string | null | undefined) => `/api/episodes/${episode}/card${text ? `?text=${encodeURIComponent(text)}` : ""}`;

const LEAD = 1.2;

/** Seconds the picture may be off while it stands, where it comes to a splice, and while it runs: beyond that it jumps. */
const OFF = { standing: 0.02, splice: 0.08, running: 0.4 };

/** How fast the picture makes good what it is off by, and the most it then runs faster or slower. */
const CATCH_UP = { share: 2, most: 0.25 };

/** Seconds that a jump took lately, for each video: no more is believed, since the first one may have waited for the file. */
const LONGEST_JUMP = 0.5;
const jumps = new WeakMap<HTMLVideoElement, { begun: number; seconds: number }>();

/** Jumps to a second of the recording; while it runs, to where the sound will be when the picture is there. */
function jump(video: HTMLVideoElement, seconds: number, speed: number) {
  const lately = jumps.get(video)?.seconds ?? 0;
  jumps.set(video, { begun: performance.now(), seconds: lately });
  video.addEventListener(
    "seeked",
    () => {
      const last = jumps.get(video);
      // A single slow jump is believed by half, so that the next one does not overshoot by all of it.
      if (last) last.seconds = Math.min(LONGEST_JUMP, (last.seconds + (performance.now() - last.begun) / 1000) / 2);
    },
    { once: true },
  );
  video.currentTime = Math.max(0, seconds + lately * speed);
}

/** Puts a video at a second of its recording, and lets it run at the programme's speed or stand. */
function drive(video: HTMLVideoElement, source: string, seconds: number, running: boolean, speed: number, allowed = OFF.running) {
  if (!video.src.endsWith(source)) video.src = source;
  const off = video.currentTime - seconds;
  if (Math.abs(off) > (running ? allowed * Math.max(1, speed) : OFF.standing) && !video.seeking) jump(video, seconds, running ? speed : 0);
  if (!running) {
    if (!video.paused) video.pause();
    return;
  }
  // What it is off by is made good by running a little faster or slower: no jump is seen.
  const { share, most } = CATCH_UP;
  video.playbackRate = Math.min(4, Math.max(0.25, speed * (1 - Math.max(-most, Math.min(most, share * off)))));
  if (video.paused) void video.play().catch(() => undefined);
}

/**
 * The picture of what is heard. Two videos take turns: while one is shown, the other waits, already at its place, for the
 * next splice; so a jump shows no black.
 */
export function Monitor({ episodeId, title, plan, pictures, children }: MonitorProps) {
  const one = useRef<HTMLVideoElement>(null);
  const two = useRef<HTMLVideoElement>(null);
  const card = useRef<HTMLImageElement>(null);

  useEffect(() => {
    const shown: { video: number; layer: number; plan: Plan | null } = { video: 0, layer: -1, plan: null };
    const pictureOf = (layer: Layer | undefined) => (layer?.recording && pictures.has(layer.recording) ? `/api/recordings/${layer.recording}/picture` : undefined);
    let frame = 0;
    const step = () => {
      frame = requestAnimationFrame(step);
      const heard = player.heard();
      if (!heard) return;
      const { plan, at } = heard;
      const { playing, waiting, speed } = desk();
      const seen = seenAt(plan, at);
      const source = pictureOf(seen?.layer);
      if (card.current) {
        card.current.style.opacity = source ? "0" : "1";
        const drawn = cardOf(episodeId, seen?.layer.text);
        if (!source && !card.current.src.endsWith(drawn)) card.current.src = drawn;
      }
      if (!seen || !source) return;
      const place = seen.place / RATE;
      const pair = [one.current, two.current];
      const splice = seen.index !== shown.layer || plan !== shown.plan;
      if (splice) {
        const other = pair[1 - shown.video];
        // Take turns only where the waiting video is ready at its place; else the shown one jumps by itself.
        if (other?.src.endsWith(source) && other.readyState >= 2 && Math.abs(other.currentTime - place) < 0.25) {
          shown.video = 1 - shown.video;
        }
        shown.layer = seen.index;
        shown.plan = plan;
      }
      const [front, back] = shown.video ? [pair[1], pair[0]] : [pair[0], pair[1]];
      if (!front || !back) return;
      front.style.zIndex = "1";
      back.style.zIndex = "0";
      const running = playing && !waiting;
      drive(front, source, place, running && seen.layer.speed > 0, speed, splice ? OFF.splice : OFF.running);
      const { next } = seen;
      const after = pictureOf(next);
      if (!next || !after) return void (back.paused || back.pause());
      if ((next.begin - at) / RATE < LEAD * speed && running) {
        drive(back, after, placeIn(next, next.begin) / RATE, false, speed);
      }
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [episodeId, pictures]);

  const fit = plan?.fill ? "object-cover" : "object-contain";
  const frame = { aspectRatio: plan?.width ? `${plan.width} / ${plan.height}` : "16 / 9" };
  return (
    <div className="grid aspect-video w-full place-items-center rounded-md bg-[#26343c]">
      <figure aria-label="Monitor" className={clsx("relative overflow-hidden rounded-md", plan && plan.width * 9 < plan.height * 16 ? "h-full" : "w-full")} style={frame}>
        <video ref={one} muted playsInline preload="auto" className={clsx("absolute inset-0 size-full", fit)} />
        <video ref={two} muted playsInline preload="auto" className={clsx("absolute inset-0 size-full", fit)} />
        <img
          ref={card}
          src={cardOf(episodeId, null)}
          alt={`Card of ${title}`}
          className="absolute inset-0 z-10 size-full object-cover"
        />
        {children}
      </figure>
    </div>
  );
}
