import clsx from "clsx";
import { useEffect, useRef, type ReactNode } from "react";
import type { Layer, Plan, View } from "../api/client";
import { desk } from "../desk/desk";
import { seenAt, type Seen } from "../player/places";
import { player } from "../player/player";
import { Graphics } from "./graphics";
import { Screen, type Following } from "./screen";
import { Turned } from "./turned";

interface MonitorProps {
  episodeId: string;
  editionId: string;
  title: string;
  plan: Plan | undefined;
  /** The recordings of which something can be shown, each with what is shown of it: its light copy, or the address of what stands for that. */
  pictures: ReadonlyMap<string, string>;
  /** What is drawn over the picture. */
  children?: ReactNode;
}

/** The picture of a layer that is drawn; where what was filmed cannot be shown yet, the episode's card. */
const cardOf = (episode: string, edition: string, plan: Plan | undefined, card: string | null | undefined) =>
  card ? `/api/editions/${edition}/cards/${card}` : `/api/episodes/${episode}/card?look=${plan?.card ?? ""}`;

/** A short film that the server makes of what cannot be put together here. */
const stretchView = (edition: string, key: string): View => ({ recording: `/api/editions/${edition}/stretches/${key}`, place: 0, speed: 1, box: [0, 0, 1, 1], crops: [{ at: 0, box: [0, 0, 1, 1] }], still: false, colours: null, covers: [], corner: 0, border: 0, border_colour: "", blurred: false, turned: null });

/** The picture of what is heard. */
export function Monitor({ episodeId, editionId, title, plan, pictures, children }: MonitorProps) {
  const screen = useRef<HTMLDivElement>(null);
  const card = useRef<HTMLImageElement>(null);
  const over = useRef<HTMLDivElement>(null);

  useEffect(() => {
    if (!screen.current || !over.current) return;
    const shown = new Screen(screen.current);
    const graphics = new Graphics(over.current, editionId);
    const turned = new Turned();
    const viewsOf = (layer: Layer | undefined): readonly View[] => (layer?.stretch ? [stretchView(editionId, layer.stretch)] : (layer?.views.flatMap((view) => ((recording) => (recording ? [{ ...view, recording }] : []))(pictures.get(view.recording))) ?? []));
    /** What is seen after this: the next layer, or the same one where a piece of it ends. */
    const following = ({ layer, next }: Seen, at: number): Following | null => {
      const ends = at + Math.min(...viewsOf(layer).map((view) => turned.lasts(view, at - layer.begin)));
      if (ends < layer.until) return { begin: ends, after: ends - layer.begin, views: viewsOf(layer).map((view) => turned.at(view, ends - layer.begin)) };
      return next ? { begin: next.begin, after: 0, views: viewsOf(next).map((view) => turned.at(view, 0)) } : null;
    };
    let frame = 0;
    const step = () => {
      frame = requestAnimationFrame(step);
      const heard = player.heard();
      if (!heard) return;
      const { plan, at } = heard;
      const { playing, waiting, speed } = desk();
      const seen = seenAt(plan, at);
      const views = viewsOf(seen?.layer).map((view) => turned.at(view, at - (seen?.layer.begin ?? 0)));
      if (card.current) {
        card.current.style.opacity = views.length ? "0" : "1";
        const drawn = cardOf(episodeId, editionId, plan, seen?.layer.card);
        if (!views.length && !card.current.src.endsWith(drawn)) card.current.src = drawn;
      }
      graphics.show(plan.overlays, at);
      if (seen) shown.show({ plan, at, seen, views, following: following(seen, at), running: playing && !waiting, speed });
    };
    frame = requestAnimationFrame(step);
    return () => {
      cancelAnimationFrame(frame);
      shown.close();
      graphics.close();
    };
  }, [episodeId, editionId, pictures]);

  const frame = { aspectRatio: plan?.width ? `${plan.width} / ${plan.height}` : "16 / 9" };
  return (
    <div className="grid aspect-video w-full place-items-center rounded-md bg-[#26343c]">
      <figure aria-label="Monitor" className={clsx("relative overflow-hidden rounded-md bg-black", plan && plan.width * 9 < plan.height * 16 ? "h-full" : "w-full")} style={frame}>
        <div ref={screen} className="absolute inset-0" />
        <img ref={card} src={cardOf(episodeId, editionId, undefined, null)} alt={`Card of ${title}`} className="absolute inset-0 z-10 size-full object-cover" />
        <div ref={over} className="pointer-events-none absolute inset-0 z-[15]" />
        {children}
      </figure>
    </div>
  );
}
