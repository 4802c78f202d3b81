import { useEffect, useMemo, useRef } from "react";
import type { Token } from "../api/client";
import { desk, useDesk } from "../desk/desk";
import type { Edit } from "./edit";
import { indexAt, selected, type Tokens } from "./tokens";
import { here, playhead } from "../desk/place";

const WIDTH = 400;
/** The field opens under the line of text, which stays readable. */
const TEXT_LINE = 30;

/** What would be retyped: what is selected, or what the playhead stands on. */
export function toRetype(list: readonly Token[]): readonly [number, number] | null {
  const { selection } = here();
  const token = list[indexAt(list, playhead())];
  return selected(list, selection) ?? (token ? [token.at, token.at + token.len] : null);
}

const textOf = (list: readonly Token[], [begin, end]: readonly [number, number]) =>
  list.slice(indexAt(list, begin)).filter((token, index) => (index === 0 || token.at < end) && token.at < end && token.k === "w").map((token) => token.text).join(" ");

/** A field over the selected words in which they are retyped. */
export function RetypeBox({ tokens, edit }: { tokens: Tokens; edit: Edit }) {
  const open = useDesk((state) => state.retyping);
  return open ? <Box tokens={tokens} edit={edit} /> : null;
}

function Box({ tokens, edit }: { tokens: Tokens; edit: Edit }) {
  const field = useRef<HTMLTextAreaElement>(null);
  // What is retyped is settled when the field opens, wherever the playhead goes meanwhile.
  const [range, place] = useMemo(() => {
    const wanted = toRetype(tokens.list);
    const first = wanted && tokens.list[indexAt(tokens.list, wanted[0])];
    const box = first && document.querySelector(`[data-at="${first.at}"]`)?.getBoundingClientRect();
    return [wanted, box] as const;
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const close = () => {
    desk().set({ retyping: false });
    document.querySelector<HTMLElement>(".page")?.focus();
  };
  useEffect(() => {
    field.current?.focus();
    field.current?.select();
    if (!range || !place) close();
  }, [range, place]);
  if (!range || !place) return null;
  const commit = () => {
    edit.operate({ kind: "retype", ranges: [{ begin: range[0], end: range[1] }], text: field.current?.value.trim() ?? "" });
    close();
  };
  // What was typed is not lost: it is kept when one goes on elsewhere on the page, and waits when one leaves the window.
  const leave = () => {
    if (!desk().retyping || !document.hasFocus()) return;
    if (field.current?.value.trim() === textOf(tokens.list, range)) close();
    else commit();
  };
  return (
    <div
      role="dialog"
      aria-label="Retype"
      className="fixed z-30 rounded-lg border border-blue bg-paper p-2 shadow-xl"
      style={{ left: Math.min(place.left - 6, window.innerWidth - 330 - WIDTH), top: Math.min(place.top + TEXT_LINE, window.innerHeight - 150), width: WIDTH }}
    >
      <textarea
        ref={field}
        defaultValue={textOf(tokens.list, range)}
        aria-label="New text"
        rows={2}
        className="w-full resize-y rounded border border-line bg-paper px-2 py-1 font-serif text-[17px] leading-6"
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter" && !event.shiftKey) {
            event.preventDefault();
            commit();
          }
          if (event.key === "Escape") close();
        }}
        onBlur={leave}
      />
      <p className="text-xs text-soft">Enter saves, Escape cancels. The sound does not change.</p>
    </div>
  );
}
