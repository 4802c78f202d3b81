/** Eyes turned to the camera: short films that the server makes, piece by piece; until one is there, the picture is as filmed. */
import type { View } from "../api/client";
import { RATE } from "../api/time";
import { placeIn } from "../player/places";

/** The length of a piece. */
const PIECE = 2 * RATE;

/** Milliseconds after which a piece that could not be had is asked for again. */
const AGAIN = 10_000;

export class Turned {
  private readonly ready = new Set<string>();
  private readonly asked = new Map<string, number>();

  constructor(private readonly load = (url: string) => fetch(url).then(async (got) => got.ok && (await got.blob()).size > 0)) {}

  /** A view as it can be shown so many ticks after its layer begins. */
  at(view: View, after: number): View {
    if (!view.turned) return view;
    const place = placeIn(view, after);
    const number = Math.floor(place / PIECE);
    const url = view.turned.replace("{piece}", String(number));
    this.ask(url);
    if (!this.ready.has(url)) return view;
    return { ...view, recording: url, place: view.place - number * PIECE };
  }

  /** In how many ticks, from so many after a view's layer begins, it goes on in another piece. */
  lasts(view: View, after: number): number {
    return view.turned && view.speed > 0 ? (PIECE - (placeIn(view, after) % PIECE)) / view.speed : Infinity;
  }

  private ask(url: string) {
    if (this.ready.has(url) || performance.now() - (this.asked.get(url) ?? -Infinity) < AGAIN) return;
    this.asked.set(url, performance.now());
    this.load(url).then(
      (there) => there && this.ready.add(url),
      () => undefined,
    );
  }
}
