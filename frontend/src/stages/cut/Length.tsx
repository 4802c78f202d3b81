import { useState, type FormEvent } from "react";
import { client, got, queryClient, type Head } from "../../api/client";
import { keys } from "../../api/queries";
import { clock, RATE, ticksOf } from "../../api/time";
import { failed } from "../../desk/desk";
import type { Edit } from "../../page/edit";
import { Button, Heading } from "../../ui/controls";
import { NumberField } from "../../ui/NumberField";
import { Pick, TextField } from "../../ui/fields";

const LONGEST_CARD = 60;

/** For how many seconds a card is seen before or after the programme; it counts in the length. */
function Card({ name, length, set }: { name: string; length: number; set: (length: number) => void }) {
  return (
    <span className="flex items-center gap-1">
      {name}
      <NumberField label={`Seconds of the ${name} card`} unit="s" value={length / RATE} least={0} most={LONGEST_CARD} digits={1} className="w-11" onChange={(seconds) => set(Math.round(seconds * RATE))} />
    </span>
  );
}

const TARGETS: [Head["target_kind"], string][] = [
  ["about", "about"],
  ["at most", "at most"],
  ["exactly", "exactly"],
];

/** How long the edition is to become. */
export function Length({ head, edit }: { head: Head; edit: Edit }) {
  const [text, setText] = useState(head.target ? clock(head.target) : "");
  const target = text.trim() ? ticksOf(text) : 0;
  const change = async (wanted: number, kind: Head["target_kind"]) => {
    try {
      const params = { path: { edition_id: head.id } };
      const after = await got(client.PATCH("/api/editions/{edition_id}", { params, body: { name: null, target: wanted, target_kind: kind } }));
      queryClient.setQueryData(keys.head(head.id), after);
    } catch (error) {
      failed(error);
    }
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (target !== null) void change(target, head.target_kind);
  };
  return (
    <section aria-label="Length">
      <Heading aside={clock(head.running_time, 1)}>Length</Heading>
      <form onSubmit={submit} className="flex items-center gap-1.5">
        <Pick label="Kind of target" value={head.target_kind} options={TARGETS} onChange={(kind) => void change(head.target, kind)} />
        <TextField label="Target length" value={text} placeholder="4:30" wrong={target === null} onChange={setText} className="w-20 font-mono text-[12px]" />
        <Button type="submit" why={target === null ? "Write a length first, such as 40:00" : target === head.target && "That is already the target"}>
          {target === 0 && head.target ? "No target" : "Set target"}
        </Button>
      </form>
      <div className="mt-1.5 flex items-center gap-1.5 text-soft">
        Cards
        <Card name="opening" length={head.opening} set={(length) => edit.operate({ kind: "card", closing: false, length })} />
        <Card name="closing" length={head.closing} set={(length) => edit.operate({ kind: "card", closing: true, length })} />
      </div>
      {target === null && <p className="mt-1 text-soft">Write minutes and seconds, such as 4:30.</p>}
    </section>
  );
}
