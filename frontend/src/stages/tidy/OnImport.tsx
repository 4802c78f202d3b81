import { KINDS } from "./judging";
import { useTidySettings } from "./settings";
import { Tick } from "../../ui/fields";

/** What is tidied by itself as soon as the words of a new recording are there. All of it are findings that can be put back. */
export function OnImport({ showId }: { showId: string }) {
  const { known, change } = useTidySettings(showId);
  if (!known) return null;
  const chosen = known.on_import;
  const names = KINDS.filter(([kind]) => chosen.includes(kind)).map(([, name]) => name.toLowerCase());
  return (
    <details className="mt-3">
      <summary className="cursor-pointer text-soft">
        Tidy on import: <b className="font-semibold text-ink">{names.length ? names.join(", ") : "nothing"}</b>
      </summary>
      <fieldset className="mt-1.5 space-y-1">
        <legend className="sr-only">Tidy on import</legend>
        {KINDS.map(([kind, name]) => (
          <label key={kind} className="flex items-center gap-1.5">
            <Tick checked={chosen.includes(kind)} onChange={(checked) => change({ on_import: checked ? [...chosen, kind] : chosen.filter((each) => each !== kind) })} /> {name}
          </label>
        ))}
        <p className="leading-snug text-soft">Struck as one step when the words of a new recording are there. Each can be put back under Tidy or on the page.</p>
      </fieldset>
    </details>
  );
}
