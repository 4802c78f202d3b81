import clsx from "clsx";
import { type InputHTMLAttributes, type ReactNode, type Ref } from "react";
import { NumberField } from "./NumberField";

interface PickProps<T extends string> {
  /** What it is, for those who hear it. */
  label: string;
  value: T;
  options: readonly (readonly [T, string])[];
  onChange: (value: T) => void;
  disabled?: boolean;
  title?: string;
  className?: string;
  dark?: boolean;
}

/** One of a list. */
export function Pick<T extends string>({ label, value, options, onChange, className, dark, ...rest }: PickProps<T>) {
  return (
    <select {...rest} value={value} aria-label={label} onChange={(event) => onChange(event.target.value as T)} className={clsx("rounded-md border px-1.5 py-1", dark ? "border-barline bg-bar text-bartext" : "border-line bg-paper text-ink", className)}>
      {options.map(([each, name]) => (
        <option key={each} value={each}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** A field with what it is about before it, on one line. */
export function Line({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-center justify-between gap-2">
      <span className="text-soft">{label}</span>
      {children}
    </div>
  );
}

interface TickProps {
  checked: boolean;
  onChange: (checked: boolean) => void;
  /** What it is, where no label stands around it. */
  label?: string;
  disabled?: boolean;
}

/** Yes or no; what it is about stands beside it in a label. */
export function Tick({ checked, onChange, label, disabled }: TickProps) {
  return <input type="checkbox" checked={checked} disabled={disabled} aria-label={label} onChange={(event) => onChange(event.target.checked)} />;
}

interface TextFieldProps extends Omit<InputHTMLAttributes<HTMLInputElement>, "onChange" | "value"> {
  /** What it is, for those who hear it. */
  label: string;
  value?: string;
  /** Left out in forms that read their fields when they are sent. */
  onChange?: (text: string) => void;
  /** What was typed cannot be used. */
  wrong?: boolean;
  ref?: Ref<HTMLInputElement>;
}

/** A line of text. */
export function TextField({ label, onChange, wrong, className, ...rest }: TextFieldProps) {
  return (
    <input
      {...rest}
      aria-label={label}
      aria-invalid={wrong || undefined}
      onChange={onChange && ((event) => onChange(event.target.value))}
      className={clsx("min-w-0 rounded-md border bg-paper px-2 py-1 text-ink placeholder:text-soft", wrong ? "border-red" : "border-line", className)}
    />
  );
}

interface ColourProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  /** Whether one sets how opaque it is, too. */
  opaque?: boolean;
}

/** A colour, and how opaque it is where that is asked for. */
export function Colour({ label, value, onChange, opaque }: ColourProps): ReactNode {
  const [solid, through] = [value.slice(0, 7), value.slice(7)];
  const per = through ? Math.round((parseInt(through, 16) / 255) * 100) : 100;
  return (
    <Line label={label}>
      <span className="flex items-center gap-1">
        {opaque && <NumberField label={`${label}, opaque`} unit="%" least={0} most={100} step={5} value={per} className="w-14" onChange={(next) => onChange(solid + Math.round((next / 100) * 255).toString(16).padStart(2, "0"))} />}
        {/* The chooser tells of each colour that is passed on the way; only the last is a step. */}
        <input key={solid} type="color" aria-label={label} defaultValue={solid} className="h-6 w-9 rounded border border-line bg-paper" onBlur={(event) => event.target.value !== solid && onChange(event.target.value + through)} />
      </span>
    </Line>
  );
}
