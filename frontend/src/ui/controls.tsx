import clsx from "clsx";
import { ToggleGroup, Tooltip } from "radix-ui";
import type { ButtonHTMLAttributes, ReactNode } from "react";

type Look = "plain" | "strong" | "bar" | "quiet";

const LOOKS: Record<Look, string> = {
  plain: "border border-line bg-paper text-ink hover:border-soft",
  strong: "border border-blue bg-blue text-paper hover:brightness-110",
  bar: "border border-barline text-bartext hover:border-barsoft",
  quiet: "border border-transparent text-soft hover:text-ink hover:border-line",
};

/** Nothing can be done with it: no filling, a dashed edge, and text that can still be read. */
const OFF = {
  plain: "cursor-not-allowed border border-dashed border-line text-soft",
  bar: "cursor-not-allowed border border-dashed border-barline text-barsoft",
};

interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: Look;
  /** Said on hovering, with the shortcut if there is one. */
  hint?: string;
  /** Why nothing can be done with it now; it can still be reached, to be told so. */
  why?: string | false | null;
}

export function Button({ look = "plain", hint, why, className, ...rest }: ButtonProps) {
  const off = why ? ({ "aria-disabled": true, onClick: (event) => event.preventDefault() } satisfies ButtonHTMLAttributes<HTMLButtonElement>) : null;
  const button = (
    <button
      type="button"
      {...rest}
      {...off}
      className={clsx(
        "inline-flex items-center justify-center gap-1.5 rounded-md px-2.5 py-1 text-[13px] leading-5",
        why || rest.disabled ? OFF[look === "bar" ? "bar" : "plain"] : LOOKS[look],
        className,
      )}
    />
  );
  const text = why || hint;
  return text ? <Hint text={text}>{button}</Hint> : button;
}

export function Hint({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={6} className="z-50 rounded bg-ink px-2 py-1 text-xs text-paper shadow">
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  dark?: boolean;
  /** As wide as there is room, with little around the words. */
  tight?: boolean;
}

/** One of a few: a row of buttons of which one is down. */
export function Choice<T extends string>({ label, value, options, onChange, dark, tight }: ChoiceProps<T>) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={label}
      value={value}
      onValueChange={(next) => next && onChange(next as T)}
      className={clsx(tight ? "flex" : "inline-flex", "overflow-hidden rounded-md border", dark ? "border-barline" : "border-line")}
    >
      {options.map(([key, text]) => (
        <ToggleGroup.Item
          key={key}
          value={key}
          className={clsx(
            tight ? "flex-auto px-1" : "px-2.5",
            "py-1 leading-5 whitespace-nowrap focus-visible:-outline-offset-2",
            dark
              ? "text-barsoft data-[state=on]:bg-[#3a434b] data-[state=on]:text-white"
              : "text-soft data-[state=on]:bg-side data-[state=on]:text-ink",
          )}
        >
          {text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

export function Progress({ label, done, total }: { label: string; done: number; total: number }) {
  const share = total > 0 ? Math.min(1, done / total) : 0;
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(share * 100)}
      className="h-1.5 overflow-hidden rounded-full bg-line"
    >
      <div className="h-full rounded-full bg-blue" style={{ width: `${share * 100}%` }} />
    </div>
  );
}

export function Heading({ children, aside }: { children: ReactNode; aside?: ReactNode }) {
  return (
    <div className="mt-4 mb-1.5 flex items-baseline justify-between gap-2">
      <h2 className="font-serif text-[15px] font-semibold">{children}</h2>
      {aside && <span className="font-mono text-xs text-soft">{aside}</span>}
    </div>
  );
}

export function Trouble({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="rounded-md border border-red/50 bg-red/5 px-2.5 py-1.5 leading-snug text-red">
      {children}
    </p>
  );
}
