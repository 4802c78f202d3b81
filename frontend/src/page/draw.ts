/** Draws the sound under the words of a passage, on one canvas for all its lines. */
import type { Token } from "../api/client";
import { RATE } from "../api/time";

const TICKS_A_PEAK = RATE / 100;
export const SOUND_TOP = 28;
export const SOUND_HEIGHT = 24;

export interface Place {
  token: Token;
  left: number;
  top: number;
  width: number;
  struck: boolean;
  now: boolean;
}

interface Inks {
  wave: string;
  ink: string;
  red: string;
}

export function inks(): Inks {
  const style = getComputedStyle(document.documentElement);
  const ink = (name: string) => style.getPropertyValue(name).trim();
  return { wave: ink("--wave"), ink: ink("--ink"), red: ink("--red") };
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

export function drawPassage(canvas: HTMLCanvasElement, width: number, height: number, places: readonly Place[], peaks?: Uint8Array) {
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
  const { wave, ink, red } = inks();
  for (const place of places) {
    const middle = place.top + SOUND_TOP + SOUND_HEIGHT / 2;
    paint.fillStyle = place.struck ? red : place.now ? ink : wave;
    paint.globalAlpha = place.struck ? 0.45 : 1;
    const { start, len } = { start: place.token.t, len: place.token.len };
    for (let x = 0; x < place.width; x += 2) {
      const from = start + (x / place.width) * len;
      const level = peaks ? loudest(peaks, from, start + ((x + 2) / place.width) * len) : 0;
      const tall = Math.max(0.6, (level * SOUND_HEIGHT) / 2);
      paint.fillRect(place.left + x, middle - tall, 1.2, 2 * tall);
    }
    if (place.struck) hatch(paint, place, red);
    paint.globalAlpha = 1;
  }
}

function hatch(paint: CanvasRenderingContext2D, { left, top, width }: Place, colour: string) {
  const y = top + SOUND_TOP;
  paint.save();
  paint.beginPath();
  paint.rect(left, y, width, SOUND_HEIGHT);
  paint.clip();
  paint.strokeStyle = colour;
  paint.globalAlpha = 0.3;
  paint.lineWidth = 1;
  for (let x = left - (left % 6) - SOUND_HEIGHT; x < left + width; x += 6) {
    paint.beginPath();
    paint.moveTo(x, y);
    paint.lineTo(x + SOUND_HEIGHT, y + SOUND_HEIGHT);
    paint.stroke();
  }
  paint.restore();
}
