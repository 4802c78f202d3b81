/** Listening: fetches blocks of the programme ahead of time and hands them to the audio thread. */
import { client, got, type Blocks, type Plan } from "../api/client";
import { RATE } from "../api/time";
import { desk, failed, type Mode } from "../desk/desk";
import { playhead, put, run } from "../desk/place";
import { toLaid, toProgramme } from "./places";
import { Meters } from "./meters";
import type { FromPlayer, ToPlayer } from "./worklet";
import workletUrl from "./worklet?worker&url";

const AHEAD = 16 * RATE;
const KEPT_BLOCKS = 120;

interface Sound {
  left: Float32Array;
  right: Float32Array;
}

/** The 16-bit stereo samples of a WAV file as floats. */
function samplesOf(file: ArrayBuffer): Sound {
  const view = new DataView(file);
  let at = 12;
  while (view.getUint32(at, false) !== 0x64617461) at += 8 + view.getUint32(at + 4, true);
  const pcm = new Int16Array(file.slice(at + 8, at + 8 + view.getUint32(at + 4, true)));
  const left = new Float32Array(pcm.length / 2);
  const right = new Float32Array(pcm.length / 2);
  for (let i = 0; i < left.length; i++) {
    left[i] = (pcm[2 * i] ?? 0) / 32767;
    right[i] = (pcm[2 * i + 1] ?? 0) / 32767;
  }
  return { left, right };
}

/** A stretch of the programme that is played by itself. */
interface Stretch {
  from: number;
  to: number;
  /** The laid time to return to at its end. */
  back: number;
  /** Whether it begins again at its end. */
  again: () => boolean;
}

export class Player {
  private audio?: AudioContext;
  private node?: AudioWorkletNode;
  private opening?: Promise<void>;
  private readonly sounds = new Map<string, Promise<Sound>>();
  private run = 0;
  private at = 0;
  private told = 0;
  private plan: Plan | undefined;
  private edition = "";
  private mode: Mode = "edited";
  private frame = 0;
  private stretch: Stretch | null = null;
  /** Ranges of laid time that are left out for trying how that sounds. */
  private without = "";

  /** The programme that is heard now. While playing, an edit lets the sound go on from the same word, to the same end. */
  use(edition: string, mode: Mode, plan: Plan) {
    this.restore?.();
    this.restore = null;
    const before = this.plan;
    const same = edition === this.edition;
    const changed = before && (plan.revision !== before.revision || mode !== this.mode || !same);
    this.edition = edition;
    this.mode = mode;
    this.plan = plan;
    const ready = this.awaited;
    if (ready && plan.revision >= ready.revision) {
      this.awaited = null;
      return ready.then();
    }
    if (!changed || !desk().playing) return;
    const { stretch } = this;
    void this.play();
    if (stretch && same) {
      const moved = (place: number) => toProgramme(plan, toLaid(before, place));
      this.stretch = { ...stretch, from: moved(stretch.from), to: moved(stretch.to) };
    }
  }

  /** What is heard now, in numbers. */
  readonly meters = new Meters();

  private awaited: { revision: number; then: () => void } | null = null;

  /** Do something once the plan of a revision is here. */
  whenReady(revision: number, then: () => void) {
    if (this.plan && this.plan.revision >= revision) return then();
    this.awaited = { revision, then };
  }

  /** Place in the programme now, in ticks; between reports it is carried on by the clock. */
  position(): number {
    const { playing, waiting, speed, backwards } = desk();
    if (!playing || waiting || !this.audio) return this.at;
    const since = Math.min(0.2, (performance.now() - this.told) / 1000);
    return Math.min(this.plan?.length ?? 0, Math.max(0, this.at + since * RATE * (backwards ? -backwards : speed)));
  }

  /** What is heard now, or would be: the plan and the place in its programme, in ticks. They go together while something is tried, too. */
  heard(): { plan: Plan; at: number } | null {
    const { plan } = this;
    if (!plan?.spans.length) return null;
    return { plan, at: desk().playing ? this.position() : Math.min(toProgramme(plan, playhead()), plan.length - 1) };
  }

  /** Play a stretch of laid time and return to where one was; over and over while that is asked for. */
  playBetween(begin: number, end: number, back = playhead()) {
    if (!this.plan) return;
    this.playStretch(toProgramme(this.plan, Math.max(0, begin)), toProgramme(this.plan, end), back, () => desk().looping);
  }

  /** Play the seconds of the programme before and after a laid time. */
  playAround(laid: number, reach: number, { loop = false } = {}) {
    if (!this.plan) return;
    const at = toProgramme(this.plan, laid);
    this.playStretch(Math.max(0, at - reach), Math.min(this.plan.length, at + reach), laid, () => loop);
  }

  playFrom(laid: number) {
    put(Math.max(0, laid));
    void this.play();
  }

  /** Play how it would be without ranges of laid time, from two seconds before them to two seconds after. */
  async tryWithout(ranges: readonly (readonly [number, number])[]): Promise<void> {
    const [edition, mode, real] = [this.edition, this.mode, this.plan];
    const without = ranges.map(([begin, end]) => `${Math.round(begin)}-${Math.round(end)}`).join();
    const params = { path: { edition_id: edition }, query: { mode: "edited" as const, without } };
    const plan = await got(client.GET("/api/editions/{edition_id}/plan", { params }));
    const [begin = 0, end = 0] = [ranges[0]?.[0], ranges.at(-1)?.[1]];
    const back = playhead();
    this.plan = plan;
    this.mode = "edited";
    this.without = without;
    this.playStretch(Math.max(0, toProgramme(plan, begin) - 2 * RATE), Math.min(plan.length, toProgramme(plan, end) + 2 * RATE), back, () => false);
    this.restore = () => {
      this.plan = real;
      this.mode = mode;
      this.without = "";
    };
  }

  private restore: (() => void) | null = null;

  private playStretch(from: number, to: number, back: number, again: () => boolean) {
    if (!this.plan) return;
    run(toLaid(this.plan, from));
    void this.play(from);
    this.stretch = { from, to, back, again };
  }

  async play(from?: number): Promise<void> {
    if (!this.plan) return;
    const first = this.plan.spans[0]?.laid ?? 0;
    // From the very beginning, music that begins before the first word is heard, too.
    const at = from ?? (playhead() <= first ? 0 : toProgramme(this.plan, playhead()));
    await this.start(at >= this.plan.length - RATE / 20 ? 0 : at, 0);
  }

  /** Play backwards from the playhead, so many times as fast. */
  async playBackwards(times: number): Promise<void> {
    if (!this.plan) return;
    const at = desk().playing ? this.position() : toProgramme(this.plan, playhead());
    await this.start(at, times);
  }

  private async start(at: number, backwards: number): Promise<void> {
    const plan = this.plan;
    this.stretch = null;
    if (!plan || plan.length === 0) return;
    const run = ++this.run;
    this.at = at;
    this.told = performance.now();
    performance.mark("play");
    desk().set({ playing: true, waiting: true, backwards });
    await this.open();
    if (run !== this.run) return;
    this.post({ kind: "start", run, at: Math.round(at), speed: backwards ? -backwards : desk().speed, length: plan.length });
    this.follow();
    try {
      await (backwards ? this.feedBackwards(run, at) : this.feed(run, at));
    } catch (error) {
      if (run !== this.run) return;
      this.pause();
      failed(error);
    }
  }

  pause() {
    this.run++;
    this.post({ kind: "stop" });
    this.settle();
    desk().set({ playing: false, waiting: false, backwards: 0 });
    this.restore?.();
    this.restore = null;
  }

  toggle() {
    if (desk().playing) this.pause();
    else void this.play();
  }

  /** Put the playhead somewhere; playing goes on from there. */
  seek(laid: number) {
    this.stretch = null;
    put(laid);
    if (desk().playing) void this.play();
    else if (this.plan) this.at = toProgramme(this.plan, laid);
  }

  /** Go on elsewhere, in the direction in which one plays. */
  leap(laid: number) {
    const { playing, backwards } = desk();
    if (!playing || !backwards) return this.seek(laid);
    put(laid);
    if (this.plan) void this.start(toProgramme(this.plan, laid), backwards);
  }

  setSpeed(speed: number) {
    desk().set({ speed });
    if (!desk().backwards) this.post({ kind: "speed", speed });
  }

  /** Keys may be pressed again before the audio thread is there: all wait for the same one. */
  private async open() {
    this.opening ??= this.connect();
    await this.opening;
    if (this.audio?.state !== "running") await this.audio?.resume();
  }

  private async connect() {
    this.audio = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    await this.audio.audioWorklet.addModule(workletUrl);
    this.node = new AudioWorkletNode(this.audio, "jaskel-player", { numberOfInputs: 0, outputChannelCount: [2] });
    this.node.port.onmessage = (event: MessageEvent<FromPlayer>) => this.hear(event.data);
    this.node.connect(this.audio.destination);
    this.meters.follow(this.node, () => desk().playing && !desk().waiting);
  }

  private post(message: ToPlayer) {
    this.node?.port.postMessage(message);
  }

  private hear({ run, at, state }: FromPlayer) {
    if (run !== this.run || !desk().playing) return;
    this.at = at;
    this.told = performance.now();
    if (desk().waiting !== (state === "waiting")) {
      if (state === "playing") performance.mark("sound begins");
      desk().set({ waiting: state === "waiting" });
    }
    if (this.stretch && (at >= this.stretch.to || state === "ended")) {
      const { from, to, back, again } = this.stretch;
      this.pause();
      this.seek(back);
      return again() ? this.playStretch(from, to, back, again) : undefined;
    }
    if (state === "ended") {
      this.run++;
      this.settle();
      desk().set({ playing: false, waiting: false, backwards: 0 });
    }
  }

  private follow() {
    cancelAnimationFrame(this.frame);
    const step = () => {
      if (!desk().playing || !this.plan) return;
      run(toLaid(this.plan, this.position()));
      this.frame = requestAnimationFrame(step);
    };
    this.frame = requestAnimationFrame(step);
  }

  private settle() {
    if (this.plan) put(toLaid(this.plan, this.position()));
  }

  /** Bring sound to the audio thread, a little more than is about to be heard, until the run ends. */
  private async feed(run: number, from: number) {
    let next = from;
    while (run === this.run && next < (this.plan?.length ?? 0)) {
      const { blocks } = await this.blocksFrom(next);
      if (!blocks.length) return;
      for (const [index, block] of blocks.entries()) {
        if (run !== this.run) return;
        const sound = this.sound(block.key);
        const after = blocks[index + 1];
        if (after) void this.sound(after.key).catch(() => undefined);
        const { left, right } = await sound;
        if (run !== this.run) return;
        this.post({ kind: "block", run, at: block.at, left, right });
        next = block.until;
        while (run === this.run && next - this.at > AHEAD) await new Promise((resolve) => setTimeout(resolve, 200));
      }
    }
  }

  /** The same for playing backwards: block by block before the place it began at. */
  private async feedBackwards(run: number, from: number) {
    let first = from;
    while (run === this.run && first > 0) {
      const { blocks } = await this.blocksFrom(Math.max(0, first - AHEAD / 2));
      for (const block of blocks.filter((each) => each.at < first).reverse()) {
        if (run !== this.run) return;
        const { left, right } = await this.sound(block.key);
        if (run !== this.run) return;
        this.post({ kind: "block", run, at: block.at, left, right });
        first = block.at;
        while (run === this.run && this.at - first > AHEAD) await new Promise((resolve) => setTimeout(resolve, 200));
      }
    }
  }

  private blocksFrom(at: number): Promise<Blocks> {
    const params = { path: { edition_id: this.edition }, query: { mode: this.mode, at: Math.round(at), without: this.without } };
    return got(client.GET("/api/editions/{edition_id}/blocks", { params }));
  }

  private sound(key: string): Promise<Sound> {
    const known = this.sounds.get(key);
    if (known) return known;
    const sound = fetch(`/api/editions/${this.edition}/sound/${key}`).then(async (response) => {
      if (!response.ok) throw new Error("The sound of this stretch could not be fetched. Press play again.");
      return samplesOf(await response.arrayBuffer());
    });
    this.sounds.set(key, sound);
    sound.catch(() => this.sounds.delete(key));
    for (const old of this.sounds.keys()) {
      if (this.sounds.size <= KEPT_BLOCKS) break;
      this.sounds.delete(old);
    }
    return sound;
  }
}

export const player = new Player();
