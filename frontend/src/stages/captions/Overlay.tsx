/** Captions over the monitor's picture, as films have them: the server draws them, the page puts each at its place in its time. */
import { useEffect, useRef } from "react";
import { client, got, type Head } from "../../api/client";
import type { SchemaMomentOut as Moment, SchemaScreensOut as Screens } from "../../api/schema";
import { RATE } from "../../api/time";
import { desk } from "../../desk/desk";
import { player } from "../../player/player";

/** So many ticks are asked for at a time, and pictures of so many are fetched ahead. */
const STRETCH = 20 * RATE;
const AHEAD = 2.5 * RATE;

/** The screens of one stretch of an edition as it is now; each stretch is asked for once. */
class Stretches {
  private known = new Map<number, Screens | null>();
  constructor(private readonly edition: string) {}

  at(place: number): Screens | undefined {
    const number = Math.floor(place / STRETCH);
    const known = this.known.get(number);
    if (known === undefined) this.fetch(number);
    return known ?? undefined;
  }

  private fetch(number: number) {
    this.known.set(number, null);
    const params = { path: { edition_id: this.edition }, query: { at: number * STRETCH } };
    void got(client.GET("/api/editions/{edition_id}/screens", { params })).then(
      (screens) => this.known.set(number, screens),
      () => this.known.delete(number),
    );
  }
}

const last = (moments: readonly Moment[], at: number) => moments.findLast((each) => each.at <= at);

export default function CaptionsOverlay({ head }: { head: Head }) {
  const image = useRef<HTMLImageElement>(null);
  const { id, revision, layout } = head;
  // What the show has of captions can change without a revision of the edition.
  const house = JSON.stringify([head.captions, head.looks]);

  useEffect(() => {
    const stretches = new Stretches(id);
    const fetched = new Map<string, HTMLImageElement>();
    const source = (key: string) => `/api/editions/${id}/screens/${key}`;
    let shown: string | null | undefined;
    let frame = 0;
    const step = () => {
      frame = requestAnimationFrame(step);
      const drawn = image.current;
      const heard = player.heard();
      if (!drawn || !heard || desk().mode !== "edited") {
        if (drawn) drawn.hidden = true;
        shown = undefined;
        return;
      }
      const screens = stretches.at(heard.at);
      if (!screens) return;
      const ahead = stretches.at(Math.min(heard.at + AHEAD, heard.plan.length - 1));
      for (const { at, key } of [...screens.moments, ...(ahead && ahead !== screens ? ahead.moments : [])]) {
        if (!key || fetched.has(key) || at > heard.at + AHEAD || at < heard.at - RATE) continue;
        const next = new Image();
        next.src = source(key);
        fetched.set(key, next);
      }
      const now = last(screens.moments, heard.at);
      const key = now?.key ?? null;
      if (key === shown) return;
      // The one before stays until this one has come: a gap would flicker.
      if (key && !fetched.get(key)?.complete && now && heard.at < now.at + RATE / 2 && shown) return;
      shown = key;
      drawn.hidden = !key;
      if (!now || !key) return;
      drawn.src = source(key);
      Object.assign(drawn.style, {
        left: `${(100 * now.x) / screens.width}%`,
        top: `${(100 * now.y) / screens.height}%`,
        width: `${(100 * now.width) / screens.width}%`,
        height: `${(100 * now.height) / screens.height}%`,
      });
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [id, revision, layout, house]);

  return <img ref={image} hidden alt="The caption at the playhead" data-caption className="absolute z-20 max-w-none" />;
}
