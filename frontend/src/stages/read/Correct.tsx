import { Check, ChevronDown, ChevronUp, Ear, PenLine } from "lucide-react";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { client, got, type Head, type Voice } from "../../api/client";
import { desk } from "../../desk/desk";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import { KINDS, places, UNSURE, type Kind } from "../../page/find";
import { stepTo } from "../../page/go";
import { toRetype } from "../../page/RetypeBox";
import { indexAt, selected, type Tokens } from "../../page/tokens";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Pick, TextField, Tick } from "../../ui/fields";
import { RATE } from "../../api/time";

interface CorrectProps {
  tokens: Tokens;
  head: Head;
  voices: ReadonlyMap<string, Voice>;
  edit: Edit;
  reveal: (laid: number) => void;
}

const NEW = "a new voice";

/** What can be mended about the selected words. */
export function Correct({ tokens, head, voices, edit }: CorrectProps) {
  const selection = usePlace((state) => state.selection);
  usePlace((state) => state.cursor);
  const [onward, setOnward] = useState(false);
  const range = selected(tokens.list, selection) ?? toRetype(tokens.list);
  const token = range && tokens.list[indexAt(tokens.list, range[0])];
  const unsure = token?.k === "w" && token.p < UNSURE;
  const [naming, setNaming] = useState(false);
  const give = (voice: string) => {
    setNaming(voice === NEW);
    if (range && voice && voice !== NEW) edit.operate({ kind: "give voice", begin: range[0], end: range[1], voice, onward });
  };
  return (
    <>
      <Heading>Correct</Heading>
      <div className="flex flex-wrap gap-1.5">
        <Button look="strong" hint="Enter" why={!range && "Select words first, or click one"} onClick={() => desk().set({ retyping: true })}>
          <PenLine size={14} /> Retype
        </Button>
        <Button hint="With a second before and after (Shift+Space)" why={!range && "Select words first, or click one"} onClick={() => range && player.playBetween(range[0] - RATE, range[1] + RATE)}>
          <Ear size={14} /> Hear
        </Button>
        <Button hint="The word is right (A)" why={!unsure && "None of these words is unsure"} onClick={() => range && edit.operate({ kind: "accept", begin: range[0], end: range[1] })}>
          <Check size={14} /> Accept
        </Button>
        <Button hint="Starts a passage at the first of these words (P)" why={!range && "Select words first, or click one"} onClick={() => range && edit.operate({ kind: "passage", at: range[0], begins: true })}>
          New passage
        </Button>
        <Button hint="Joins this passage to the one before (Shift+P)" why={!range && "Select words first, or click one"} onClick={() => range && edit.operate({ kind: "passage", at: range[0], begins: false })}>
          Run on
        </Button>
      </div>
      {unsure && range && <Proposals head={head} range={range} edit={edit} />}
      <div className="mt-2 flex items-center gap-2">
        <Pick
          label="Spoken by"
          value=""
          disabled={!range}
          options={[["", "Spoken by …"], ...[...voices.values()].map((voice) => [voice.id, voice.shown] as const), [NEW, `${NEW} …`]]}
          onChange={give}
          className="min-w-0 flex-1"
        />
        {naming && (
          <TextField
            label="Name of the new voice"
            autoFocus
            placeholder="Name"
            maxLength={80}
            onBlur={() => setNaming(false)}
            onKeyDown={(event) => event.key === "Enter" && give(event.currentTarget.value.trim())}
            className="w-28"
          />
        )}
        <label className="flex items-center gap-1 whitespace-nowrap text-soft">
          <Tick checked={onward} onChange={setOnward} /> from here on
        </label>
      </div>
    </>
  );
}

/** House spellings that doubtful words may be meant for; one click retypes them so. */
function Proposals({ head, range: [begin, end], edit }: { head: Head; range: readonly [number, number]; edit: Edit }) {
  const found = useQuery({
    queryKey: ["proposals", head.id, head.layout, begin, end],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/proposals", { params: { path: { edition_id: head.id }, query: { begin, end } } })),
    staleTime: Infinity,
  });
  if (!found.data?.terms.length) return null;
  return (
    <p className="mt-2 flex flex-wrap items-center gap-1.5 text-soft">
      Meant
      {found.data.terms.map((term) => (
        <Button key={term} className="!px-2 !py-0.5 font-serif" onClick={() => edit.operate({ kind: "retype", ranges: [{ begin, end }], text: term })}>
          {term}
        </Button>
      ))}
      ?
    </p>
  );
}

/** Going from one doubtful place to the next. */
export function StepThrough({ tokens, head, reveal }: CorrectProps) {
  const [kind, setKind] = useState<Kind>("unsure");
  const found = useMemo(() => new Map(KINDS.map(([each]) => [each, places(each, tokens, head)])), [tokens, head]);
  const go = (way: 1 | -1) => stepTo(found.get(kind) ?? [], way, reveal);
  return (
    <>
      <Heading aside={`${found.get(kind)?.length ?? 0}`}>Step through</Heading>
      <div className="flex gap-1.5">
        <Pick label="What to step through" value={kind} options={KINDS.map(([each, name]) => [each, `${name} (${found.get(each)?.length ?? 0})`] as const)} onChange={setKind} className="min-w-0 flex-1" />
        <Button className="!px-2" aria-label="Previous" hint="Shift+U: unsure words" onClick={() => go(-1)}>
          <ChevronUp size={15} />
        </Button>
        <Button className="!px-2" aria-label="Next" hint="U: unsure words" onClick={() => go(1)}>
          <ChevronDown size={15} />
        </Button>
      </div>
    </>
  );
}
