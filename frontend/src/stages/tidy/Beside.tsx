import { useQuery } from "@tanstack/react-query";
import clsx from "clsx";
import { client, got } from "../../api/client";
import type { SchemaReadingOut as Said } from "../../api/schema";
import { select } from "../../desk/place";
import { At } from "../../page/times";
import { player } from "../../player/player";

interface BesideProps {
  edition: string;
  revision: number;
  reveal: (laid: number) => void;
}

/** The script beside what was said: its sentences with the take that stays, what was never said, and what was said off it. */
export function Beside({ edition, revision, reveal }: BesideProps) {
  const script = useQuery({
    queryKey: ["script", edition, revision],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/script", { params: { path: { edition_id: edition } } })),
    placeholderData: (known) => known,
  }).data;
  if (!script?.lines.length) return null;
  const unsaid = script.lines.filter((line) => !line.takes).length;
  const off = script.off.filter((said) => !said.gone);
  const go = (said: Said) => {
    select({ anchor: said.begin, focus: said.end, exact: true });
    player.seek(said.begin);
    reveal(said.begin);
  };
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-soft">
        Beside the script: <b className="font-semibold text-ink">{script.lines.length} sentences</b>, {unsaid || "none"} never said, {off.length || "nothing"} said off it
      </summary>
      <ol aria-label="The script beside what was said" className="mt-1.5 max-h-80 divide-y divide-line overflow-y-auto rounded-md border border-line bg-paper">
        {script.lines.map((line, number) => (
          <li key={number}>
            <button type="button" disabled={!line.said} onClick={() => line.said && go(line.said)} className="flex w-full items-baseline gap-2 px-2 py-1 text-left enabled:hover:bg-side">
              <span className={clsx("min-w-0 flex-1 font-serif leading-snug", line.said?.gone && "line-through", !line.takes && "text-red")}>{line.text}</span>
              <span className="font-mono text-xs whitespace-nowrap text-soft">{!line.takes ? "never said" : line.takes > 1 ? `${line.takes} takes` : line.said && <At laid={line.said.begin} />}</span>
            </button>
          </li>
        ))}
      </ol>
      {script.off.length > 0 && (
        <>
          <p className="mt-2 text-soft">Said but not in the script; Delete strikes the selection:</p>
          <ul aria-label="Said but not in the script" className="mt-1 divide-y divide-line overflow-hidden rounded-md border border-line bg-paper">
            {script.off.map((said) => (
              <li key={said.begin}>
                <button type="button" onClick={() => go(said)} className="flex w-full items-baseline gap-2 px-2 py-1 text-left hover:bg-side">
                  <span className="font-mono text-xs text-soft"><At laid={said.begin} /></span>
                  <span className={clsx("min-w-0 flex-1 truncate font-serif", said.gone && "text-soft line-through")}>{said.text}</span>
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </details>
  );
}
