/** A line with one or two handles, dragged or moved with the arrow keys. */
import clsx from "clsx";
import { Slider as Radix } from "radix-ui";

interface Handle {
  label: string;
  value: number;
  /** What the value says, where the number does not. */
  text?: string;
  green?: boolean;
}

interface SliderProps {
  /** From left to right. */
  handles: readonly Handle[];
  min: number;
  max: number;
  step: number;
  /** While a handle moves. */
  onMove?: (values: number[]) => void;
  /** Once it is let go, or a key was pressed. */
  onSet: (values: number[]) => void;
  className?: string;
}

export function Slider({ handles, min, max, step, onMove, onSet, className }: SliderProps) {
  return (
    <Radix.Root value={handles.map((each) => each.value)} {...{ min, max, step }} onValueChange={onMove ?? onSet} onValueCommit={onMove && onSet} className={clsx("relative flex h-4 touch-none items-center select-none", className)}>
      <Radix.Track className="relative h-0.5 w-full bg-line">{handles.length > 1 && <Radix.Range className="absolute h-full bg-blue" />}</Radix.Track>
      {handles.map(({ label, text, green }) => (
        <Radix.Thumb key={label} aria-label={label} aria-valuetext={text} className={clsx("block size-3.5 rounded-full border-2 bg-paper", green ? "border-green" : "border-blue")} />
      ))}
    </Radix.Root>
  );
}
