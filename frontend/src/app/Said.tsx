import { TriangleAlert, X } from "lucide-react";
import { useEffect } from "react";
import { desk, useDesk } from "../desk/desk";

const SECONDS = 9;
const LINK = "font-semibold whitespace-nowrap text-ink underline underline-offset-2";

interface SaidProps {
  undo?: () => void;
  /** Whether its line is there while there is nothing to say, so that nothing moves when there is. */
  stays?: boolean;
}

/** Under the page, where it covers nothing: what was just done, with Undo beside it, and what went wrong. */
export function Said({ undo, stays = false }: SaidProps) {
  const said = useDesk((state) => state.said);
  const troubles = useDesk((state) => state.troubles);
  const number = said?.number;
  useEffect(() => {
    if (number === undefined) return;
    const timer = setTimeout(() => desk().said?.number === number && desk().set({ said: null }), SECONDS * 1000);
    return () => clearTimeout(timer);
  }, [number]);
  if (!stays && !said && !troubles.length) return null;
  return (
    <div className="border-t border-line leading-snug">
      <div role="alert">
        <ul aria-label="What went wrong">
          {troubles.map((trouble) => (
            <li key={trouble.number} className="flex items-start gap-2.5 border-b border-line bg-red/5 px-4 py-1.5 text-red">
              <TriangleAlert size={15} aria-hidden className="mt-0.5 shrink-0" />
              <span className="min-w-0 flex-1">{trouble.text}</span>
              <button type="button" aria-label={`Dismiss: ${trouble.text}`} title="Dismiss" className="rounded p-0.5 hover:bg-pick" onClick={() => desk().dismiss(trouble)}>
                <X size={15} />
              </button>
            </li>
          ))}
        </ul>
      </div>
      <div role="status" className="flex min-h-8 items-center gap-3 px-4 py-1 text-soft">
        {said && (
          <>
            <span className="min-w-0">{said.text}</span>
            {said.also && (
              <button
                type="button"
                className={LINK}
                onClick={() => {
                  said.also?.run();
                  desk().set({ said: null });
                }}
              >
                {said.also.text}
              </button>
            )}
            {said.undo && undo && (
              <button type="button" className={LINK} onClick={undo}>
                Undo
              </button>
            )}
          </>
        )}
      </div>
    </div>
  );
}
