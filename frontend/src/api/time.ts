/** Ticks are the server's time: 48,000 to the second, whole numbers. */
export const RATE = 48_000;

/** As people read a running time: 3:12, 1:02:03; with `decimals` places of a second. */
export function clock(ticks: number, decimals = 0): string {
  const scale = 10 ** decimals;
  const units = Math.floor((Math.max(0, ticks) * scale) / RATE);
  const seconds = Math.floor(units / scale);
  const h = Math.floor(seconds / 3600);
  const m = Math.floor(seconds / 60) % 60;
  const s = String(seconds % 60).padStart(2, "0");
  const text = h ? `${h}:${String(m).padStart(2, "0")}:${s}` : `${m}:${s}`;
  return decimals ? `${text}.${String(units % scale).padStart(decimals, "0")}` : text;
}

export const bytes = (size: number) =>
  size < 1e6 ? `${Math.max(1, Math.round(size / 1e3))} kB` : size < 1e9 ? `${(size / 1e6).toFixed(1)} MB` : `${(size / 1e9).toFixed(2)} GB`;

/** Ticks of a time as people write it: 4:30, 1:02:03, or seconds. */
export function ticksOf(text: string): number | null {
  const parts = text.trim().split(":").map((part) => Number(part.replace(",", ".")));
  if (!text.trim() || parts.length > 3 || parts.some((part) => !Number.isFinite(part) || part < 0)) return null;
  return Math.round(parts.reduce((sum, part) => 60 * sum + part, 0) * RATE);
}
