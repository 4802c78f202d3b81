/** Picture, in parts: shots and their framings, what is set for cameras, joins, and what lies over the picture. */
import { useEffect, useState } from "react";
import { clock, RATE } from "../../api/time";
import { usePlace } from "../../desk/place";
import { useAllShots } from "../../page/shots";
import type { BenchProps } from "../../page/stage";
import { useStyle } from "../../page/style";
import { selected } from "../../page/tokens";
import { Choice, Heading } from "../../ui/controls";
import { Closer } from "./Closer";
import { Cameras } from "./Cameras";
import { Cutaways } from "./Cutaways";
import { Faces } from "./Faces";
import { Following } from "./Following";
import { Cards } from "./Cards";
import { Graphics } from "./Graphics";
import { OwnFramings } from "./OwnFramings";
import { lookedAt } from "./looking";
import { StyleForm } from "./StyleForm";
import { Joins } from "./Joins";
import { ThisShot } from "./ThisShot";

type Part = "shots" | "camera" | "joins" | "over";

const PARTS: readonly (readonly [Part, string])[] = [
  ["shots", "Shots"],
  ["camera", "Camera"],
  ["joins", "Joins"],
  ["over", "Over it"],
];

export default function PictureBench({ head, ...rest }: BenchProps) {
  return head ? <Bench {...rest} head={head} /> : null;
}

function Bench({ episode, head, page, plan, tokens, voices, edit, reveal }: BenchProps & { head: NonNullable<BenchProps["head"]> }) {
  const [part, setPart] = useState<Part>("shots");
  const found = useAllShots(head);
  const style = useStyle(episode.show_id);
  const cursor = usePlace((state) => state.cursor);
  const words = selected(tokens.list, usePlace((state) => state.selection));
  const shot = found?.shots.findLast((each) => each.begin <= cursor) ?? found?.shots[0];
  const range = words ? { begin: words[0], end: words[1] } : shot ? { begin: shot.begin, end: shot.end } : null;
  // A hand on the monitor means the same words.
  useEffect(() => {
    lookedAt.range = () => range;
  });
  if (!found) return <p className="mt-4 text-soft">Looking …</p>;
  const { shots, closer, unlooked } = found;
  const numberOf = (voice: string) => voices.get(voice)?.number ?? 0;
  const seen = [...found.seen].sort((a, b) => numberOf(a) - numberOf(b));
  const over = (
    <>
      <Cutaways {...{ episode, head, tokens, edit, reveal }} />
      <Graphics {...{ head, page, tokens, voices, edit, reveal }} />
      <Cards show={episode.show_id} {...{ head, edit }} />
      <StyleForm show={episode.show_id} />
    </>
  );
  if (!shots.length)
    return (
      <section aria-label="Picture">
        <p className="mt-4 leading-snug text-soft">Nothing in this edition was filmed: its card is seen. Bring a camera’s recording under Gather and join it with the others.</p>
        {over}
      </section>
    );
  const shortest = Math.min(...shots.map((shot) => shot.until - shot.at));
  return (
    <section aria-label="Picture">
      <Heading aside={`${shots.length} ${shots.length === 1 ? "shot" : "shots"} · shortest ${(shortest / RATE).toFixed(1)} s`}>Picture</Heading>
      <Choice label="Part of the picture" value={part} options={PARTS} onChange={setPart} />
      {part === "shots" && (
        <>
          <Following {...{ head, edit, seen }} />
          {shot && (
            <>
              <Heading aside={`${clock(shot.at, 1)} – ${clock(shot.until, 1)}`}>This shot</Heading>
              <ThisShot {...{ shot, shots, seen, voices, tokens, edit }} own={style?.framings ?? []} />
              <OwnFramings show={episode.show_id} plan={plan} />
            </>
          )}
          <Heading aside={closer.length ? `${closer.length}` : undefined}>Closer</Heading>
          <Closer {...{ closer, shot, head, tokens, edit }} />
          <Faces {...{ episode, head, unlooked }} />
        </>
      )}
      {part === "camera" && <Cameras {...{ head, shot, range, voices, edit, reveal }} />}
      {part === "joins" && <Joins {...{ head, shots, edit, reveal }} />}
      {part === "over" && over}
    </section>
  );
}
