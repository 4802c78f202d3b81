import clsx from "clsx";
import { Check, Ear, Play } from "lucide-react";
import { RATE } from "../../api/time";
import { desk } from "../../desk/desk";
import type { Scene } from "../../page/scene";
import { At } from "../../page/times";
import { player } from "../../player/player";
import { Button } from "../../ui/controls";
import { accept, type Finding, going, known, pickOf, pickTake, useCurrent, useJudging } from "./judging";

const seconds = (ticks: number) => `${(ticks / RATE).toFixed(1)} s`;

/** The takes of the finding that is looked at. */
export function TakesPanel({ scene }: { scene: Scene }) {
  const current = useCurrent();
  const finding = known(scene.head.id).find((each) => each.id === current);
  if (!finding?.takes.length) return null;
  const accepted = () => {
    accept(scene.head.id, scene.edit, [finding]);
    desk().set({ panel: null });
  };
  return <TakesSideBySide finding={finding} accepted={accepted} />;
}

/** The takes of the finding that is looked at in columns. */
function TakesSideBySide({ finding, accepted }: { finding: Finding; accepted: () => void }) {
  useJudging((state) => state.picks);
  const picked = pickOf(finding);
  return (
    <>
      <ol aria-label="Takes side by side" className="grid auto-cols-fr grid-flow-col gap-3">
        {finding.takes.map((take, number) => (
          <li key={take.begin} className={clsx("flex flex-col gap-2 rounded-md border p-3", number === picked ? "border-green bg-green/10" : "border-line")}>
            <span className="font-mono text-xs text-soft">
              take {number + 1} · <At laid={take.begin} decimals={1} /> · {seconds(take.end - take.begin)}
            </span>
            <p className="flex-1 font-serif text-[15px] leading-snug">{take.text}</p>
            <p className="text-[12px] text-soft">{take.why.join(" · ") || "nothing speaks for it"}</p>
            <div className="flex gap-1.5">
              <Button aria-label={`Hear take ${number + 1}`} onClick={() => player.playBetween(take.begin, take.end)}>
                <Play size={13} /> Hear
              </Button>
              <Button look={number === picked ? "strong" : "plain"} aria-pressed={number === picked} aria-label={`Keep take ${number + 1}`} onClick={() => pickTake(finding, number)}>
                {number === picked ? "Stays" : "Keep this"}
              </Button>
            </div>
          </li>
        ))}
      </ol>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={() => void player.tryWithout(going(finding))}>
          <Ear size={14} /> Without the others
        </Button>
        <Button look="strong" onClick={accepted}>
          <Check size={14} /> Accept
        </Button>
      </div>
    </>
  );
}
