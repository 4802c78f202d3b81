/** What is proposed, one below the other: each can be heard, pinned and refused. */
import { Pin, Play, X } from "lucide-react";
import type { Voice } from "../../api/client";
import { clock } from "../../api/time";
import { put } from "../../desk/place";
import { Button } from "../../ui/controls";
import { hear, same, type Proposal, type Wish } from "./reuse";

interface ListProps {
  proposals: readonly Proposal[];
  wish: Wish;
  voices: ReadonlyMap<string, Voice>;
  reveal: (laid: number) => void;
  put: (wish: Wish) => void;
  /** Whether one can be pinned, so that the others are chosen around it. */
  pins?: boolean;
  /** They are to go: refused, one stays. */
  going?: boolean;
}

export function Proposals({ proposals, wish, voices, reveal, put: store, pins, going }: ListProps) {
  const { pinned = [], refused = [] } = wish;
  const refuse = ({ place }: Proposal) => store({ ...wish, refused: [...refused, place], pinned: pinned.filter((each) => !same(each, place)) });
  const pin = (each: Proposal) => store({ ...wish, pinned: each.pinned ? pinned.filter((one) => !same(one, each.place)) : [...pinned, each.place] });
  return (
    <ol aria-label="Proposed" className="divide-y divide-line rounded-md border border-line bg-paper">
      {proposals.map((each) => {
        const at = clock(each.begin);
        return (
          <li key={`${each.place.recording} ${each.place.at}`} className="space-y-1 px-2 py-1.5">
            <div className="flex items-center gap-1.5 text-xs text-soft">
              <button type="button" className="font-mono hover:text-ink" aria-label={`Go to ${at}`} onClick={() => each.ranges[0] && (put(each.ranges[0].begin), reveal(each.ranges[0].begin))}>
                {at}
              </button>
              <span className="min-w-0 flex-1 truncate">{(each.voice && voices.get(each.voice)?.shown) || ""}</span>
              <span className="font-mono">{clock(each.end - each.begin, 1)}</span>
            </div>
            <p className="line-clamp-3 font-serif text-[14px] leading-snug" title={each.text}>
              {each.text}
            </p>
            <div className="flex items-center gap-1">
              <span className="flex-1 text-xs leading-snug text-soft">{each.why}</span>
              <Button className="!px-1.5 !py-0.5" aria-label={`Hear what is said at ${at}`} hint="Hear it" onClick={() => hear(each)}>
                <Play size={12} />
              </Button>
              {pins && (
                <Button className="!px-1.5 !py-0.5" look={each.pinned ? "strong" : "plain"} aria-pressed={each.pinned} aria-label={`Keep what is said at ${at}`} hint={each.pinned ? "It stays; let it go again" : "Keep it, and choose the rest around it"} onClick={() => pin(each)}>
                  <Pin size={12} />
                </Button>
              )}
              <Button className="!px-1.5 !py-0.5" aria-label={`${going ? "Leave in" : "Refuse"} what is said at ${at}`} hint={going ? "Leave it in: another goes instead" : "Refuse it: the next best comes"} onClick={() => refuse(each)}>
                <X size={12} />
              </Button>
            </div>
          </li>
        );
      })}
    </ol>
  );
}

/** How many were refused, and a way back. */
export function Refused({ wish, put: store, going }: Pick<ListProps, "wish" | "put" | "going">) {
  const count = wish.refused?.length ?? 0;
  if (!count) return null;
  return (
    <p className="mt-1.5 flex items-center gap-1.5 text-soft">
      <span className="flex-1">
        {count} {going ? "left in" : "refused"}
      </span>
      <Button className="!px-2 !py-0.5 text-xs" onClick={() => store({ ...wish, refused: [] })}>
        Allow again
      </Button>
    </p>
  );
}
