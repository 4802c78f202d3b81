/** What is drawn over the picture: the server draws each once, and it comes and goes here as it does in films. */
import type { SchemaOverlayOut as Overlay } from "../api/schema";

interface Shown {
  opaque: number;
  /** How much of it, from its left, has come out behind the moving edge. */
  share: number;
}

const smooth = (part: number) => {
  const p = Math.min(1, Math.max(0, part));
  return p * p * (3 - 2 * p);
};

/** How an overlay is seen at a place of the programme. */
export function shownAt({ begin, until, enter, moves }: Pick<Overlay, "begin" | "until" | "enter" | "moves">, at: number): Shown {
  if (enter === "grow") return { opaque: 1, share: Math.min(1, Math.max(0, (at - begin) / Math.max(1, until - begin))) };
  if (enter === "none" || !moves) return { opaque: 1, share: 1 };
  const come = smooth(Math.min(at - begin, until - at) / moves);
  return enter === "fade" ? { opaque: come, share: 1 } : { opaque: 1, share: come };
}

/** Ticks before an overlay in which its drawing is fetched. */
const AHEAD = 3 * 48_000;

export class Graphics {
  private readonly images = new Map<string, HTMLImageElement>();

  constructor(
    private readonly box: HTMLElement,
    private readonly edition: string,
  ) {}

  show(overlays: readonly Overlay[], at: number) {
    const wanted = new Set<string>();
    overlays.forEach((overlay, level) => {
      if (at < overlay.begin - AHEAD || at >= overlay.until) return;
      const name = `${overlay.key} ${overlay.begin}`;
      wanted.add(name);
      const image = this.images.get(name) ?? this.add(name, overlay);
      image.style.zIndex = String(level);
      const { opaque, share } = at < overlay.begin ? { opaque: 0, share: 0 } : shownAt(overlay, at);
      image.style.opacity = String(opaque);
      image.style.clipPath = share < 1 ? `inset(0 ${100 * (1 - share)}% 0 0)` : "";
    });
    for (const [name, image] of this.images) {
      if (wanted.has(name)) continue;
      image.remove();
      this.images.delete(name);
    }
  }

  close() {
    for (const image of this.images.values()) image.remove();
    this.images.clear();
  }

  private add(name: string, { key, box, mark }: Overlay) {
    const image = document.createElement("img");
    image.src = `/api/editions/${this.edition}/graphics/${key}`;
    image.alt = "";
    if (mark) image.dataset["mark"] = mark;
    image.className = "absolute max-w-none";
    const [left, top, width, height] = box.map((side) => `${100 * side}%`);
    Object.assign(image.style, { left, top, width, height });
    this.box.append(image);
    this.images.set(name, image);
    return image;
  }
}
