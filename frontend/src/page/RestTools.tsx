import { useState, type FormEvent } from "react";
import type { Head, Token } from "../api/client";
import { RATE } from "../api/time";
import type { Edit } from "./edit";
import { covered } from "./tokens";
import { Button, Heading } from "../ui/controls";
import { TextField } from "../ui/fields";

const LONGEST = 60;

interface RestToolsProps {
  rest: Token;
  head: Head;
  edit: Edit;
  /** Called once something was done with it. */
  done?: () => void;
}

/** Makes a rest as long as is wanted: its middle is struck, or room tone is put into it. */
export function RestTools({ rest, head, edit, done }: RestToolsProps) {
  const kept = rest.len - covered(head.struck, rest.at, rest.at + rest.len);
  const [seconds, setSeconds] = useState((kept / RATE).toFixed(2));
  const wanted = Math.round(Number(seconds.replace(",", ".")) * RATE);
  const sensible = Number.isFinite(wanted) && wanted >= 0 && wanted <= LONGEST * RATE && wanted !== kept;
  const set = (event: FormEvent) => {
    event.preventDefault();
    if (!sensible) return;
    become();
    done?.();
  };
  const become = () => {
    const middle = rest.at + Math.round(rest.len / 2);
    if (wanted > rest.len) return edit.operate({ kind: "rest", at: middle, length: Math.max(480, wanted - kept), silent: false });
    // What is left is half before and half after what goes, so that the ends of the words ring out and breaths stay whole.
    const first = rest.at + Math.round(wanted / 2);
    const last = rest.at + rest.len - (wanted - Math.round(wanted / 2));
    if (wanted > kept) {
      const half = Math.round((rest.len - wanted) / 2);
      return edit.putBack([[rest.at, middle - half], [middle + (rest.len - wanted - half), rest.at + rest.len]]);
    }
    edit.operate({ kind: "strike", ranges: [{ begin: first, end: Math.max(first + 1, last) }], why: "rest shortened", settle: true });
  };
  return (
    <>
      <Heading aside={`${(kept / RATE).toFixed(2)} s`}>Rest</Heading>
      <form onSubmit={set} className="flex items-center gap-1.5">
        <label className="flex items-center gap-1.5 text-soft">
          Shorten or lengthen to
          <TextField label="Seconds of the rest" value={seconds} inputMode="decimal" onChange={setSeconds} className="w-16 text-right font-mono text-[12px]" />
          s
        </label>
        <Button type="submit" why={!sensible && "Write how many seconds it is to last, up to 60"} hint="Longer with room tone, shorter from its middle">
          Set
        </Button>
        <Button why={kept === 0 && "All of it is already struck"} onClick={() => {
            edit.strike([[rest.at, rest.at + rest.len]]);
            done?.();
          }}>
          None
        </Button>
      </form>
    </>
  );
}
