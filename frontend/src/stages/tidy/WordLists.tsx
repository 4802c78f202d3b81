import { useState, type FormEvent } from "react";
import { Button } from "../../ui/controls";
import type { Kind } from "./judging";
import type { Settings } from "./settings";

const LISTS = { filler: ["fillers", "Fillers of this show"], retake: ["cues", "Words that give a take up"], chatter: ["remarks", "Remarks to whoever edits"] } as const;

/** The show's own words for a kind: what it counts as a filler, as giving up, as a remark. */
export function WordLists({ kind, settings }: { kind: Kind | "all"; settings: Settings }) {
  if (kind !== "filler" && kind !== "retake" && kind !== "chatter") return null;
  const [name, title] = LISTS[kind];
  const words = settings.known?.[name] ?? [];
  return (
    <details className="mt-2">
      <summary className="cursor-pointer text-soft">
        {title} ({words.length})
      </summary>
      <List key={words.join()} name={title} words={words} change={(next) => settings.change({ [name]: next })} />
    </details>
  );
}

function List({ name, words, change }: { name: string; words: readonly string[]; change: (words: string[]) => void }) {
  const [text, setText] = useState(words.join(", "));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change(text.split(/[,\n]/).map((each) => each.trim()).filter(Boolean));
  };
  return (
    <form onSubmit={submit} className="mt-1 space-y-1">
      <textarea value={text} aria-label={name} rows={4} onChange={(event) => setText(event.target.value)} className="w-full rounded-md border border-line bg-paper px-2 py-1 font-serif leading-snug" />
      <Button type="submit" why={text === words.join(", ") && "Nothing was changed in the list"}>
        Keep for the show
      </Button>
    </form>
  );
}
