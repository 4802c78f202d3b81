/** What captions keep to; each change is a step of the edition. */
import type { Head } from "../../api/client";
import { RATE } from "../../api/time";
import { desk } from "../../desk/desk";
import { useMay } from "../../desk/rights";
import type { Edit } from "../../page/edit";
import { Button } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { useHouse, type Rules } from "../../page/house";

const NUMBERS = [
  ["characters", "characters on a line", 10, 100],
  ["lines", "lines at once", 1, 3],
  ["rate", "characters a second", 5, 60],
] as const;

const TIMES = [
  ["shortest", "shortest time", 0.1, 20],
  ["longest", "longest time", 0.5, 60],
  ["gap", "gap between two", 0, 2],
  ["late", "may begin late by", 0, 1],
] as const;

export function RulesForm({ head, show, edit }: { head: Head; show: string; edit: Edit }) {
  const rules = head.captions;
  const house = useHouse(show);
  const edits = useMay("edit");
  const set = (next: Partial<Rules>) => edit.operate({ kind: "caption rules", rules: { ...rules, ...next } });
  return (
    <section aria-label="Rules of captions" className="mt-3 space-y-1">
      {NUMBERS.map(([name, label, least, most]) => (
        <Line key={name} label={label}>
          <NumberField label={label} unit="" {...{ least, most }} step={1} value={rules[name]} className="w-14" onChange={(value) => set({ [name]: value })} />
        </Line>
      ))}
      {TIMES.map(([name, label, least, most]) => (
        <Line key={name} label={label}>
          <NumberField label={`${label}, seconds`} unit="s" {...{ least, most }} step={0.1} digits={2} value={rules[name] / RATE} className="w-14" onChange={(seconds) => set({ [name]: Math.round(seconds * RATE) })} />
        </Line>
      ))}
      <label className="flex items-center justify-between gap-2 text-soft">
        stay until the next begins <Tick checked={rules.hold} onChange={(hold) => set({ hold })} />
      </label>
      <label className="flex items-center justify-between gap-2 text-soft">
        sounds in brackets <Tick checked={rules.sounds} onChange={(sounds) => set({ sounds })} />
      </label>
      <Line label="names of voices">
        <Pick
          label="Names of voices"
          value={rules.names}
          options={[
            ["never", "never"],
            ["when it changes", "when it changes"],
            ["always", "always"],
          ]}
          onChange={(names) => set({ names })}
        />
      </Line>
      {rules.names !== "never" && (
        <Line label="told by">
          <Pick
            label="How names are told"
            value={rules.named}
            options={[
              ["NAME:", "NAME:"],
              ["dash", "– a dash"],
              ["colour", "colour"],
            ]}
            onChange={(named) => set({ named })}
          />
        </Line>
      )}
      <div className="flex flex-wrap gap-1.5 pt-2">
        {edits && (
          <Button hint="Editions without rules of their own follow the show" onClick={() => house.keep({ rules }, () => desk().say("These are the show’s rules now"))}>
            Keep for the show
          </Button>
        )}
        <Button why={!head.own_rules && "They are the show’s already"} onClick={() => edit.operate({ kind: "caption rules", rules: null })}>
          As the show has them
        </Button>
      </div>
    </section>
  );
}
