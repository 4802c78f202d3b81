/**
 * The videos behind the monitor. Each view of what is seen has one in its place; while it is shown another waits, already at its
 * place, for what is seen next: so a change shows no black.
 */
import type { Plan, View } from "../api/client";
import { RATE } from "../api/time";
import { boxOf, coverAt, cropAt, placeIn, type Seen } from "../player/places";

/** Seconds before a change from which what is seen next waits for it. */
const LEAD = 1.2;

/** Seconds the picture may be off while it stands, where it comes to a splice, and while it runs: beyond that it jumps. */
const OFF = { standing: 0.02, splice: 0.08, running: 0.4 };

/** How fast the picture makes good what it is off by, and the most it then runs faster or slower. */
const CATCH_UP = { share: 2, most: 0.25 };

/** Seconds that a jump took lately, for each video: no more is believed, since the first one may have waited for the file. */
const LONGEST_JUMP = 0.5;

/** A video that waits is taken where it is no further off than this. */
const NEAR = 0.25;

/** Where a view's picture comes from: the light copy of a recording, or an address of its own. */
const sourceOf = ({ recording }: View) => (recording.startsWith("/") ? recording : `/api/recordings/${recording}/picture`);

/** What lies behind views: a colour, or a picture of the house style. */
const groundOf = (ground: string | null) => (ground?.startsWith("picture:") ? `center / cover url("/api/house-pictures/${ground.slice(8)}")` : (ground ?? ""));

const share = (part: number) => `${100 * part}%`;

/** A still picture that is shown as if it were a video: nothing of it moves but its place. */
class Slide {
  readonly frame = document.createElement("div");
  private readonly image = document.createElement("img");

  constructor(screen: HTMLElement) {
    this.frame.className = "absolute overflow-hidden opacity-0";
    this.image.alt = "";
    this.image.className = "absolute max-w-none object-fill";
    this.frame.append(this.image);
    screen.append(this.frame);
  }

  has(source: string) {
    return this.image.src.endsWith(source);
  }

  waits(source: string) {
    return this.has(source) && this.image.complete;
  }

  place(view: View, after: number, level: number | null) {
    lay(this.frame, this.image, view, after, level);
  }

  drive(source: string) {
    if (!this.has(source)) this.image.src = source;
  }

  rest() {
    // It never runs.
  }

  hide() {
    this.frame.style.opacity = "0";
  }

  close() {
    this.frame.remove();
  }
}

/** Levels of pictures, as filters of the page: one for each that is seen. */
class Filters {
  private readonly svg = document.createElementNS(SVG, "svg");
  private readonly known = new Map<string, string>();

  constructor() {
    this.svg.setAttribute("aria-hidden", "true");
    Object.assign(this.svg.style, { position: "absolute", width: "0", height: "0" });
    document.body.append(this.svg);
  }

  /** The value of a CSS `filter` that puts colours through a matrix. */
  of(colours: readonly number[] | null): string {
    if (!colours) return "";
    const values = colours.join(" ");
    const known = this.known.get(values);
    if (known) return known;
    const id = `levels-${this.known.size}`;
    const [filter, matrix] = [document.createElementNS(SVG, "filter"), document.createElementNS(SVG, "feColorMatrix")];
    filter.id = id;
    filter.setAttribute("color-interpolation-filters", "sRGB");
    matrix.setAttribute("values", values);
    filter.append(matrix);
    this.svg.append(filter);
    const made = `url(#${id})`;
    this.known.set(values, made);
    return made;
  }
}

const SVG = "http://www.w3.org/2000/svg";
let filters: Filters | undefined;

/** How wide the blur of a cover is, as a share of what it covers; nobody is known by what is left. */
const BLUR = 0.16;

/** Covers over a picture, each where it is now; there are as many elements as are needed. */
function cover(frame: HTMLElement, view: View, after: number) {
  const crop = cropAt(view, after);
  const seen = view.covers.flatMap((each) => {
    const box = coverAt(each, after);
    return box ? [{ form: each.form, box }] : [];
  });
  const elements = frame.getElementsByClassName("cover");
  while (elements.length < seen.length) {
    const made = document.createElement("div");
    made.className = "cover absolute";
    frame.append(made);
  }
  seen.forEach(({ form, box }, index) => {
    const element = elements[index] as HTMLElement;
    const [width, height] = [box.width / crop.width, box.height / crop.height];
    Object.assign(element.style, { display: "", left: share((box.left - crop.left) / crop.width), top: share((box.top - crop.top) / crop.height), width: share(width), height: share(height), background: form === "solid" ? SOLID : "" });
    element.style.backdropFilter = form === "solid" ? "" : `blur(${Math.max(4, BLUR * width * frame.clientWidth)}px)`;
  });
  for (let index = seen.length; index < elements.length; index++) (elements[index] as HTMLElement).style.display = "none";
}

/** A picture that is only the ground is so much darker, as in films. */
const DIM = 0.6;

/** The line around a slot, over its picture. */
function edge(frame: HTMLElement, border: string) {
  const known = frame.querySelector<HTMLElement>(":scope > .edge");
  if (!known && !border) return;
  const line = known ?? document.createElement("div");
  if (!known) {
    line.className = "edge absolute inset-0";
    frame.append(line);
  }
  Object.assign(line.style, { border, borderRadius: frame.style.borderRadius, zIndex: "2" });
}

/** What a cover lets nothing through with, as films have it. */
const SOLID = "#1c1c1c";

/** Put a picture in its place; what lies over others has a higher level, and what waits none. */
function lay(frame: HTMLElement, picture: HTMLElement, view: View, after: number, level: number | null) {
  const [box, crop] = [boxOf(view.box), cropAt(view, after)];
  Object.assign(frame.style, { left: share(box.left), top: share(box.top), width: share(box.width), height: share(box.height), opacity: level === null ? "0" : "1", zIndex: String(level ?? 0) });
  const levels = view.colours ? (filters ??= new Filters()).of(view.colours) : "";
  picture.style.filter = view.blurred ? `${levels} blur(${Math.round(0.03 * frame.clientWidth)}px) brightness(${DIM})` : levels;
  const short = Math.min(frame.clientWidth, frame.clientHeight) / 100;
  frame.style.borderRadius = view.corner ? `${view.corner * short}px` : "";
  // A line lies inside its slot, over the picture's outermost part.
  frame.style.boxShadow = "";
  edge(frame, view.border ? `${view.border * short}px solid ${view.border_colour}` : "");
  if (view.covers.length || frame.childElementCount > 1) cover(frame, view, after);
  Object.assign(picture.style, { left: share(-crop.left / crop.width), top: share(-crop.top / crop.height), width: share(1 / crop.width), height: share(1 / crop.height) });
}

/** A video within a frame that shows a part of it. */
class Video {
  readonly frame = document.createElement("div");
  readonly video = document.createElement("video");
  private jumped = { begun: 0, seconds: 0 };

  constructor(screen: HTMLElement) {
    this.frame.className = "absolute overflow-hidden opacity-0";
    Object.assign(this.video, { muted: true, playsInline: true, preload: "auto" });
    this.video.className = "absolute max-w-none object-fill";
    this.frame.append(this.video);
    screen.append(this.frame);
  }

  has(source: string) {
    return this.video.src.endsWith(source);
  }

  /** Whether it stands ready at a second of what it shows. */
  waits(source: string, seconds: number) {
    return this.has(source) && this.video.readyState >= 2 && Math.abs(this.video.currentTime - seconds) < NEAR;
  }

  place(view: View, after: number, level: number | null) {
    lay(this.frame, this.video, view, after, level);
  }

  /** Put it at a second of a recording, and let it run at the programme's speed or stand. */
  drive(source: string, seconds: number, running: boolean, speed: number, allowed = OFF.running) {
    const { video } = this;
    if (!this.has(source)) video.src = source;
    const off = video.currentTime - seconds;
    if (Math.abs(off) > (running ? allowed * Math.max(1, speed) : OFF.standing) && !video.seeking) this.jump(seconds, running ? speed : 0);
    if (!running) return this.rest();
    // What it is off by is made good by running a little faster or slower: no jump is seen.
    const { share: part, most } = CATCH_UP;
    video.playbackRate = Math.min(4, Math.max(0.25, speed * (1 - Math.max(-most, Math.min(most, part * off)))));
    if (video.paused) void video.play().catch(() => undefined);
  }

  rest() {
    if (!this.video.paused) this.video.pause();
  }

  hide() {
    this.rest();
    this.frame.style.opacity = "0";
  }

  /** Jumps to a second of the recording; while it runs, to where the sound will be when the picture is there. */
  private jump(seconds: number, speed: number) {
    const lately = this.jumped.seconds;
    this.jumped.begun = performance.now();
    this.video.addEventListener(
      "seeked",
      () => {
        // A single slow jump is believed by half, so that the next one does not overshoot by all of it.
        this.jumped.seconds = Math.min(LONGEST_JUMP, (this.jumped.seconds + (performance.now() - this.jumped.begun) / 1000) / 2);
      },
      { once: true },
    );
    this.video.currentTime = Math.max(0, seconds + lately * speed);
  }

  close() {
    this.video.removeAttribute("src");
    this.video.load();
    this.frame.remove();
  }
}

type Projector = Video | Slide;

/** What is seen from a place of the programme on: so many ticks after its layer begins. */
export interface Following {
  begin: number;
  after: number;
  views: readonly View[];
}

interface Now {
  plan: Plan;
  at: number;
  seen: Seen;
  /** What of the layer can be shown, and what is next. */
  views: readonly View[];
  following: Following | null;
  running: boolean;
  speed: number;
}

export class Screen {
  private readonly all: Projector[] = [];
  private shown: readonly Projector[] = [];
  private last: { plan: Plan; index: number; sources: string } | null = null;

  constructor(private readonly box: HTMLElement) {}

  show({ plan, at, seen, views, following, running, speed }: Now) {
    const { layer, index } = seen;
    const after = at - layer.begin;
    const sources = views.map(sourceOf).join();
    const splice = this.last?.index !== index || this.last.plan !== plan || this.last.sources !== sources;
    if (splice) this.change(views, after);
    this.last = { plan, index, sources };
    this.box.style.background = groundOf(layer.ground);
    views.forEach((view, level) => {
      const projector = this.shown[level];
      projector?.place(view, after, level + 1);
      projector?.drive(sourceOf(view), placeIn(view, after) / RATE, running && view.speed > 0, speed, splice ? OFF.splice : OFF.running);
    });
    if (!following || !running || (following.begin - at) / RATE >= LEAD * speed) {
      for (const each of this.all) if (!this.shown.includes(each)) each.rest();
      return;
    }
    const taken = new Set(this.shown);
    for (const view of following.views) {
      const projector = this.free(taken, view.still, (each) => each.has(sourceOf(view)));
      taken.add(projector);
      projector.place(view, following.after, null);
      projector.drive(sourceOf(view), placeIn(view, following.after) / RATE, false, speed);
    }
  }

  close() {
    for (const each of this.all) each.close();
  }

  /** Let each view have the projector that waits for it; else one that shows the same recording, which jumps by itself. */
  private change(views: readonly View[], after: number) {
    const taken = new Set<Projector>();
    const before = this.shown;
    this.shown = views.map((view) => {
      const [source, seconds] = [sourceOf(view), placeIn(view, after) / RATE];
      const waiting = this.all.find((each) => !taken.has(each) && each.waits(source, seconds));
      const same = before.find((each) => !taken.has(each) && each.has(source));
      const projector = waiting ?? same ?? this.free(taken, view.still, (each) => each.has(source));
      taken.add(projector);
      return projector;
    });
    for (const each of this.all) if (!taken.has(each)) each.hide();
  }

  private free(taken: ReadonlySet<Projector>, still: boolean, best: (each: Projector) => boolean): Projector {
    const idle = this.all.filter((each) => !taken.has(each) && each instanceof Slide === still);
    const found = idle.find(best) ?? idle[0];
    if (found) return found;
    const made = still ? new Slide(this.box) : new Video(this.box);
    this.all.push(made);
    return made;
  }
}
