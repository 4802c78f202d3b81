/** Meters of what is played: loudness by ITU-R BS.1770-4, over 0.4 s and over 3 s, and the true peak between samples. */
import { RATE } from "../api/time";

/** The two filters of the recommendation at 48 kHz. */
const SHELF = { forward: [1.53512485958697, -2.69169618940638, 1.19839281085285], back: [1, -1.69065929318241, 0.73248077421585] };
const PASS = { forward: [1, -2, 1], back: [1, -1.99004745483398, 0.99007225036621] };

const MOMENT = 0.4 * RATE;
const PEAK = 4096;
const SHORT_TERM = 3000;

export interface Levels {
  momentary: number;
  shortTerm: number;
  peak: number;
}

const NOTHING: Levels = { momentary: -Infinity, shortTerm: -Infinity, peak: -Infinity };

/** Weights that give the value a share of a sample after the fourth of eight samples: a windowed sinc. */
const BETWEEN = [0.25, 0.5, 0.75].map((share) =>
  Array.from({ length: 8 }, (_, tap) => {
    const x = tap - 3 - share;
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * (0.5 + 0.5 * Math.cos((Math.PI * x) / 4.5));
  }),
);

/** The largest value of a wave, between its samples too. */
export function truePeak(wave: Float32Array): number {
  let most = 0;
  for (let i = 3; i < wave.length - 5; i++) {
    most = Math.max(most, Math.abs(wave[i] ?? 0));
    // Only near a large sample may there be something larger beside it.
    if (Math.abs(wave[i] ?? 0) < most * 0.6) continue;
    for (const weights of BETWEEN) {
      let sum = 0;
      for (let tap = 0; tap < 8; tap++) sum += (weights[tap] ?? 0) * (wave[i - 3 + tap] ?? 0);
      most = Math.max(most, Math.abs(sum));
    }
  }
  return most;
}

const lufs = (power: number) => (power > 0 ? -0.691 + 10 * Math.log10(power) : -Infinity);

export class Meters {
  private weighted: AnalyserNode[] = [];
  private plain: AnalyserNode[] = [];
  private readonly wave = new Float32Array(32_768);
  private moments: { at: number; power: number }[] = [];
  private source: AudioNode | undefined;
  private on: () => boolean = () => false;

  /** Listen to a node as long as something plays; nothing is done before somebody reads. */
  follow(source: AudioNode, playing: () => boolean) {
    this.source = source;
    this.on = playing;
  }

  private connect(node: AudioNode) {
    const { context } = node;
    const splitter = new ChannelSplitterNode(context, { numberOfOutputs: 2 });
    node.connect(splitter);
    for (const channel of [0, 1]) {
      const shelf = new IIRFilterNode(context, { feedforward: SHELF.forward, feedback: SHELF.back });
      const pass = new IIRFilterNode(context, { feedforward: PASS.forward, feedback: PASS.back });
      const weighted = new AnalyserNode(context, { fftSize: 32_768 });
      const plain = new AnalyserNode(context, { fftSize: PEAK });
      splitter.connect(shelf, channel).connect(pass).connect(weighted);
      splitter.connect(plain, channel);
      this.weighted.push(weighted);
      this.plain.push(plain);
    }
  }

  read(): Levels {
    if (!this.source || !this.on()) {
      this.moments = [];
      return NOTHING;
    }
    if (!this.weighted.length) this.connect(this.source);
    let power = 0;
    for (const node of this.weighted) {
      node.getFloatTimeDomainData(this.wave);
      let sum = 0;
      for (let i = this.wave.length - MOMENT; i < this.wave.length; i++) sum += (this.wave[i] ?? 0) ** 2;
      power += sum / MOMENT;
    }
    const now = performance.now();
    this.moments = [...this.moments.filter((each) => now - each.at < SHORT_TERM), { at: now, power }];
    const mean = this.moments.reduce((sum, each) => sum + each.power, 0) / this.moments.length;
    let peak = 0;
    for (const node of this.plain) {
      const wave = this.wave.subarray(0, PEAK);
      node.getFloatTimeDomainData(wave);
      peak = Math.max(peak, truePeak(wave));
    }
    return { momentary: lufs(power), shortTerm: lufs(mean), peak: peak > 0 ? 20 * Math.log10(peak) : -Infinity };
  }
}
