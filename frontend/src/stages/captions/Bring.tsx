/** A caption file that was made elsewhere: what differs is said first, then it is taken over in one step. */
import { useRef, useState } from "react";
import { asItIs, client, got } from "../../api/client";
import type { SchemaCaptionsComparedOut as Comparison } from "../../api/schema";
import { clock } from "../../api/time";
import { failed } from "../../desk/desk";
import { select } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";

interface BringProps {
  edition: string;
  edit: Edit;
  reveal: (laid: number) => void;
}

/** So many differences are listed; the count says how many there are. */
const LISTED = 40;

export function Bring({ edition, edit, reveal }: BringProps) {
  const chooser = useRef<HTMLInputElement>(null);
  const [brought, setBrought] = useState<{ name: string; found: Comparison } | null>(null);
  const compare = (file: File) =>
    got(
      client.POST("/api/editions/{edition_id}/caption-file", {
        params: { path: { edition_id: edition }, query: { name: file.name } },
        ...asItIs(file),
      }),
    ).then((found) => setBrought({ name: file.name, found }), failed);
  const go = (laid: number) => {
    select({ anchor: laid, focus: laid });
    player.seek(laid);
    reveal(laid);
  };
  return (
    <>
      <Heading>From a file</Heading>
      <input
        ref={chooser}
        hidden
        type="file"
        aria-label="Caption file"
        accept=".srt,.vtt,.ttml,.xml,.stl,.scc"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void compare(file);
          event.target.value = "";
        }}
      />
      <Button hint="SubRip, WebVTT, TTML, EBU STL or SCC. What differs is said first" onClick={() => chooser.current?.click()}>
        Compare a caption file …
      </Button>
      {brought && (
        <section aria-label={`Compared with ${brought.name}`} className="mt-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
          <b className="block truncate font-semibold" title={brought.name}>
            {brought.name}
          </b>
          {brought.found.told.map((sentence) => (
            <p key={sentence} className="leading-snug text-soft">
              {sentence}
            </p>
          ))}
          <ol aria-label="Differences" className="mt-1 max-h-52 overflow-y-auto">
            {brought.found.differences.slice(0, LISTED).map((each, index) => (
              <li key={index} className="border-t border-line py-0.5">
                <button type="button" className="block w-full text-left text-xs leading-snug hover:text-blue" onClick={() => go(each.laid)}>
                  <span className="font-mono text-soft">{clock(each.at, 1)}</span> {KINDS[each.kind]}
                  {each.theirs && <span className="block font-serif">“{each.theirs}”</span>}
                  {each.ours && each.ours !== each.theirs && <span className="block font-serif text-soft">here: “{each.ours}”</span>}
                </button>
              </li>
            ))}
          </ol>
          {brought.found.count > LISTED && <p className="text-xs text-soft">and {(brought.found.count - LISTED).toLocaleString("en")} more</p>}
          <div className="mt-1.5 flex gap-1.5">
            <Button why={brought.found.count === 0 && "It is the same"} hint="One step, which can be undone. The transcript stays" onClick={() => edit.operate({ kind: "caption file", cues: brought.found.cues }, () => setBrought(null))}>
              Break and word as it does
            </Button>
            <Button look="quiet" onClick={() => setBrought(null)}>
              Leave it
            </Button>
          </div>
        </section>
      )}
    </>
  );
}

const KINDS: Record<Comparison["differences"][number]["kind"], string> = {
  wording: "reads otherwise",
  break: "begins elsewhere",
  time: "at another time",
  "not said": "not said here",
  missing: "in none of its captions",
};
