/** Draws the sound under the words of a passage, on one canvas for all its lines. */
import type { Head, Token } from "../api/client";
import { RATE } from "../api/time";
import { toRecording, type Stave } from "./sources";

const TICKS_A_PEAK = RATE / 100;
export const SOUND_TOP = 28;
export const SOUND_HEIGHT = 24;

export interface Place {
  token: Token;
  left: number;
  top: number;
  width: number;
  struck: boolean;
}

/** A stave to be drawn: whose sound, its envelope if it is here yet, and the CSS variable of its ink; and lines said again in it. */
export interface Drawn {
  stave: Stave;
  peaks: Uint8Array | undefined;
  ink: string;
  lines?: ReadonlyMap<string, Uint8Array> | undefined;
}

export function ink(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(name).trim();
}

/** The loudest of a recording between two ticks, 0 to 1. Peaks are square roots, which keeps quiet speech visible. */
function loudest(peaks: Uint8Array, from: number, to: number): number {
  const first = Math.floor(from / TICKS_A_PEAK);
  // What belongs to the next word in the last 10 ms is left to it.
  const last = Math.max(first, Math.floor(to / TICKS_A_PEAK) - 1);
  let most = 0;
  for (let i = first; i <= last; i++) most = Math.max(most, peaks[i] ?? 0);
  return most / 255;
}

export function drawPassage(canvas: HTMLCanvasElement, width: number, height: number, places: readonly Place[], staves: readonly Drawn[], levels: Head["levels"] = []) {
  const scale = Math.min(2, window.devicePixelRatio || 1);
  if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
    canvas.width = Math.round(width * scale);
    canvas.height = Math.round(height * scale);
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
  }
  const paint = canvas.getContext("2d");
  if (!paint) return;
  paint.setTransform(scale, 0, 0, scale, 0, 0);
  paint.clearRect(0, 0, width, height);
  const red = ink("--red");
  const plain = ink("--ink");
  const colours = staves.map((stave) => ink(stave.ink));
  for (const place of places) {
    for (const [index, stave] of staves.entries()) {
      const top = place.top + SOUND_TOP + index * SOUND_HEIGHT;
      paint.fillStyle = place.struck ? red : (colours[index] ?? plain);
      paint.globalAlpha = place.struck ? 0.45 : 1;
      const { t: start, len, pickup } = place.token;
      const peaks = pickup ? stave.lines?.get(pickup) : stave.peaks;
      for (let x = 0; x < place.width; x += 2) {
        const [from, to] = [x, x + 2].map((each) => start + (each / place.width) * len) as [number, number];
        const clock = (at: number) => (pickup ? at : toRecording(stave.stave, at));
        const level = start >= 0 && peaks ? loudest(peaks, clock(from), clock(to)) * (pickup ? 1 : heightAt(levels, stave.stave.recording, from)) : 0;
        const tall = Math.max(0.6, (level * SOUND_HEIGHT) / 2);
        paint.fillRect(place.left + x, top + SOUND_HEIGHT / 2 - tall, 1.2, 2 * tall);
      }
    }
    if (place.struck) hatch(paint, place, red, staves.length * SOUND_HEIGHT);
    paint.globalAlpha = 1;
  }
}

/** How tall the sound of a track is drawn where its level was set: envelopes are square roots, and so is this. */
export function heightAt(levels: Head["levels"], track: string, at: number): number {
  const level = levels.find((each) => each.track === track && each.start <= at && at < each.end);
  if (!level) return 1;
  return level.decibels <= -120 ? 0 : Math.sqrt(10 ** (level.decibels / 20));
}

function hatch(paint: CanvasRenderingContext2D, { left, top, width }: Place, colour: string, height: number) {
  const y = top + SOUND_TOP;
  paint.save();
  paint.beginPath();
  paint.rect(left, y, width, height);
  paint.clip();
  paint.strokeStyle = colour;
  paint.globalAlpha = 0.3;
  paint.lineWidth = 1;
  for (let x = left - (left % 6) - height; x < left + width; x += 6) {
    paint.beginPath();
    paint.moveTo(x, y);
    paint.lineTo(x + height, y + height);
    paint.stroke();
  }
  paint.restore();
}
