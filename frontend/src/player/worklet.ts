/**
 * Runs on the audio thread: plays blocks of sound in the order of the programme, sample after sample. At another speed than
 * 1 the pitch is kept by SoundTouch's time stretching (overlap-add).
 */
import { Stretch } from "@soundtouchjs/core";

declare const sampleRate: number;
declare function registerProcessor(name: string, processor: unknown): void;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
}

interface Block {
  at: number;
  left: Float32Array;
  right: Float32Array;
}

export type ToPlayer =
  | { kind: "start"; run: number; at: number; speed: number; length: number }
  | { kind: "block"; run: number; at: number; left: Float32Array; right: Float32Array }
  | { kind: "speed"; speed: number }
  | { kind: "stop" };

export interface FromPlayer {
  run: number;
  /** Place in the programme, in samples. */
  at: number;
  state: "playing" | "waiting" | "ended";
}

const REPORT_EVERY = 512;

class Player extends AudioWorkletProcessor {
  private run = 0;
  private at = 0;
  private length = 0;
  private speed = 1;
  private playing = false;
  private blocks: Block[] = [];
  private reported = 0;
  private stretch = this.newStretch();
  /** Samples handed to the stretcher that have not been heard yet, counted in the programme. */
  private fed = 0;
  private scratch = new Float32Array(0);

  constructor() {
    super();
    this.port.onmessage = (event: MessageEvent<ToPlayer>) => this.hear(event.data);
  }

  private newStretch() {
    const stretch = new Stretch({ sampleRate, createBuffers: true });
    stretch.tempo = this.speed;
    return stretch;
  }

  private hear(message: ToPlayer) {
    switch (message.kind) {
      case "start":
        this.run = message.run;
        this.at = this.fed = message.at;
        this.length = message.length;
        this.speed = message.speed;
        this.blocks = [];
        this.stretch = this.newStretch();
        this.playing = true;
        break;
      case "block":
        if (message.run === this.run) this.blocks.push(message);
        break;
      case "speed":
        // What lies in the stretcher is given up; reading goes on from what was last heard.
        this.speed = message.speed;
        this.fed = Math.round(this.at);
        this.stretch = this.newStretch();
        break;
      case "stop":
        this.playing = false;
        break;
    }
  }

  /** Copy `count` samples of the programme from `at` on; gives how many were there. */
  private read(at: number, left: Float32Array, right: Float32Array, count: number): number {
    let done = 0;
    while (done < count) {
      const place = at + done;
      const block = this.blocks.find((b) => b.at <= place && place < b.at + b.left.length);
      if (!block) break;
      const from = place - block.at;
      const part = Math.min(count - done, block.left.length - from);
      left.set(block.left.subarray(from, from + part), done);
      right.set(block.right.subarray(from, from + part), done);
      done += part;
    }
    return done;
  }

  private stretched(left: Float32Array, right: Float32Array): number {
    const count = left.length;
    const input = this.stretch.inputBuffer;
    const output = this.stretch.outputBuffer;
    if (!input || !output) return 0;
    for (let tries = 0; output.frameCount < count && tries < 8; tries++) {
      const wanted = Math.min(2048, this.length - this.fed);
      const l = new Float32Array(2048);
      const r = new Float32Array(2048);
      const got = wanted > 0 ? this.read(this.fed, l, r, wanted) : 0;
      if (got === 0 && this.fed < this.length) return 0;
      this.fed += got;
      const padded = got || 2048; // at the end, silence pushes the last sound out
      const both = new Float32Array(2 * padded);
      for (let i = 0; i < padded; i++) {
        both[2 * i] = l[i] ?? 0;
        both[2 * i + 1] = r[i] ?? 0;
      }
      input.putSamples(both, 0, padded);
      this.stretch.process();
    }
    const given = Math.min(count, output.frameCount);
    if (this.scratch.length < 2 * count) this.scratch = new Float32Array(2 * count);
    output.extract(this.scratch, 0, given);
    output.receive(given);
    for (let i = 0; i < given; i++) {
      left[i] = this.scratch[2 * i] ?? 0;
      right[i] = this.scratch[2 * i + 1] ?? 0;
    }
    return given;
  }

  private forwards(left: Float32Array, right: Float32Array): number {
    const count = Math.min(left.length, Math.max(0, Math.ceil(this.length - this.at)));
    return this.speed === 1 ? this.read(Math.round(this.at), left, right, count) : this.stretched(left, right);
  }

  /** Sound backwards, as a tape is wound back: faster is also higher. */
  private backwards(left: Float32Array, right: Float32Array): number {
    const times = -this.speed;
    const count = Math.min(left.length, Math.floor(this.at / times));
    if (count === 0) {
      this.at = 0;
      return 0;
    }
    const reach = Math.round(count * times);
    const l = new Float32Array(reach);
    const r = new Float32Array(reach);
    if (this.read(Math.round(this.at) - reach, l, r, reach) < reach) return 0;
    for (let i = 0; i < count; i++) {
      const place = reach - 1 - Math.round(i * times);
      left[i] = l[place] ?? 0;
      right[i] = r[place] ?? 0;
    }
    return count;
  }

  private isAhead(block: Block): boolean {
    if (this.speed < 0) return block.at < this.at + 4096;
    return block.at + block.left.length > Math.min(this.at, this.fed) - 4096;
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (!left || !right || !this.playing) return true;
    const given = this.speed < 0 ? this.backwards(left, right) : this.forwards(left, right);
    this.at = Math.max(0, Math.min(this.length, this.at + given * this.speed));
    this.blocks = this.blocks.filter((b) => this.isAhead(b));
    const ended = this.speed < 0 ? this.at <= 0 : this.at >= this.length;
    if (ended) this.playing = false;
    this.reported += left.length;
    if (ended || this.reported >= REPORT_EVERY) {
      this.reported = 0;
      const state = ended ? "ended" : given ? "playing" : "waiting";
      this.port.postMessage({ run: this.run, at: this.at, state } satisfies FromPlayer);
    }
    return true;
  }
}

registerProcessor("jaskel-player", Player);
