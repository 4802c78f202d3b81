import { Popover } from "radix-ui";
import { useState, type FormEvent } from "react";
import type { Voice } from "../api/client";
import { client, got, Refusal } from "../api/client";
import { PAGES, readAgain } from "../desk/change";
import { Button, Trouble } from "../ui/controls";
import { Pick, TextField } from "../ui/fields";
import { inkOf } from "./sources";

/** The name beside a passage; opens to name the voice everywhere, or to make one of two. */
export function VoiceName({ voice, voices }: { voice: Voice | undefined; voices: ReadonlyMap<string, Voice> }) {
  const [open, setOpen] = useState(false);
  if (!voice) return null;
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        className="block w-full truncate text-right text-[12.5px] font-semibold hover:underline"
        style={{ color: `var(${inkOf(voice)})` }}
        aria-label={`Voice ${voice.shown}`}
      >
        {voice.shown}
        {voice.like && <span className="font-normal text-ochre"> {voices.get(voice.like)?.shown}?</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="right"
          align="start"
          sideOffset={6}
          className="z-40 w-72 rounded-lg border border-line bg-paper p-3 text-ink shadow-lg"
          onKeyDown={(event) => event.stopPropagation()}
        >
          <VoiceForm voice={voice} voices={voices} done={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function VoiceForm({ voice, voices, done }: { voice: Voice; voices: ReadonlyMap<string, Voice>; done: () => void }) {
  const [name, setName] = useState(voice.name);
  const [role, setRole] = useState(voice.role);
  const [trouble, setTrouble] = useState("");
  const [twin, setTwin] = useState("");
  const params = { path: { voice_id: voice.id } };
  const carryOut = async (work: Promise<unknown>) => {
    try {
      await work;
      await readAgain(PAGES);
      done();
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
      if (error instanceof Refusal) setTwin(String(error.problem.facts?.["voice"] ?? ""));
    }
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void carryOut(got(client.PATCH("/api/voices/{voice_id}", { params, body: { name: name.trim(), role: role.trim() } })));
  };
  const merge = (into: string) => void carryOut(got(client.POST("/api/voices/{voice_id}/merge", { params, body: { into } })));
  const others = [...voices.values()].filter((other) => other.id !== voice.id);
  const like = voices.get(voice.like ?? "");
  return (
    <form onSubmit={submit} className="space-y-2">
      {like && (
        <div className="flex items-center justify-between gap-2 rounded-md bg-side px-2 py-1.5">
          <span>
            It sounds like <b>{like.shown}</b>.
          </span>
          <Button onClick={() => merge(like.id)}>It is {like.shown}</Button>
        </div>
      )}
      <label className="block text-soft">
        Name, everywhere in the show
        <TextField label="Name, everywhere in the show" autoFocus value={name} maxLength={80} placeholder={voice.shown} onChange={setName} className="mt-1 w-full" />
      </label>
      <label className="block text-soft">
        Role, for lower thirds
        <TextField label="Role, for lower thirds" value={role} maxLength={80} placeholder="Shipwright" onChange={setRole} className="mt-1 w-full" />
      </label>
      {trouble && <Trouble>{trouble}</Trouble>}
      <div className="flex flex-wrap gap-1.5">
        <Button type="submit" look="strong">
          Name it
        </Button>
        {twin && <Button onClick={() => merge(twin)}>Merge them</Button>}
      </div>
      {others.length > 0 && (
        <label className="block text-soft">
          The same person as
          <Pick
            label="The same person as"
            value=""
            options={[["", "Choose a voice to merge into …"], ...others.map((other) => [other.id, other.shown] as const)]}
            onChange={merge}
            className="mt-1 w-full"
          />
        </label>
      )}
    </form>
  );
}
