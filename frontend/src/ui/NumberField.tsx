import { useState, type KeyboardEvent } from "react";
import clsx from "clsx";

/** A number as people write it, with a decimal comma or a true minus; null for what is none. */
export function numberOf(text: string): number | null {
  const plain = text.trim().replace(",", ".").replace("−", "-");
  return plain && Number.isFinite(Number(plain)) ? Number(plain) : null;
}

interface NumberFieldProps {
  /** What it is, with its unit, for those who hear it. */
  label: string;
  title?: string;
  value: number;
  unit: string;
  least: number;
  most: number;
  /** What an arrow key adds or takes away. */
  step?: number;
  digits?: number;
  onChange: (value: number) => void;
  className?: string;
}

/**
 * A number with its unit. What is typed counts once Enter is pressed or the field is left, Escape takes it back, and the
 * arrow keys go a step up or down, with Shift ten; the field keeps the focus when its value changes.
 */
export function NumberField({ label, title, value, unit, least, most, step = 1, digits = 0, onChange, className }: NumberFieldProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const known = String(Number(value.toFixed(digits)));
  const wrong = typed !== null && numberOf(typed) === null;
  const take = (wanted: number | null) => {
    setTyped(null);
    if (wanted === null) return;
    const bounded = Math.max(least, Math.min(most, Number(wanted.toFixed(digits))));
    if (bounded !== Number(known)) onChange(bounded);
  };
  const key = (event: KeyboardEvent) => {
    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (event.key === "Enter" && typed !== null) take(numberOf(typed));
    else if (event.key === "Escape") setTyped(null);
    else if (way) {
      event.preventDefault();
      take((numberOf(typed ?? known) ?? value) + way * step * (event.shiftKey ? 10 : 1));
    }
  };
  return (
    <span className="inline-flex items-center gap-1 text-soft">
      <input
        value={typed ?? known}
        inputMode="decimal"
        role="spinbutton"
        aria-label={label}
        aria-valuenow={Number(known)}
        aria-valuemin={least}
        aria-valuemax={most}
        aria-invalid={wrong}
        data-settled={typed === null}
        title={wrong ? `Write a number from ${least} to ${most}` : title}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={key}
        onBlur={() => typed !== null && take(numberOf(typed))}
        className={clsx("rounded-md border bg-paper px-1.5 py-0.5 text-right font-mono text-[12px] text-ink", wrong ? "border-red" : "border-line", className ?? "w-14")}
      />
      {unit}
    </span>
  );
}
