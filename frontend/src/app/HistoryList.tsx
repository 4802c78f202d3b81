import { keepPreviousData, useInfiniteQuery } from "@tanstack/react-query";
import { Bookmark, RotateCcw } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got } from "../api/client";
import type { SchemaLogOut as Step } from "../api/schema";
import { WHO } from "../api/author";
import { Button } from "../ui/controls";
import { TextField, Tick } from "../ui/fields";
import { desk, failed, useDesk } from "../desk/desk";
import { Compared } from "./Editions";
import type { Scene } from "../page/scene";

const STEPS: Record<Step["step"], string> = { do: "", undo: "Undone: ", redo: "Done again: ", base: "" };

/** Everything that was done to the edition, the newest first; every step can be gone back to, named and compared. */
export function HistoryList({ scene }: { scene: Scene }) {
  const { head, edit } = scene;
  const team = useDesk((state) => state.team);
  const [chosen, setChosen] = useState<Step | null>(null);
  const [comparing, setComparing] = useState(false);
  const [named, setNamed] = useState(false);
  const [words, setWords] = useState("");
  const [who, setWho] = useState(localStorage.getItem(WHO) ?? "");
  const found = useInfiniteQuery({
    queryKey: ["history", head.id, head.revision, words],
    placeholderData: keepPreviousData,
    initialPageParam: null as number | null,
    queryFn: ({ pageParam }) => got(client.GET("/api/editions/{edition_id}/history", { params: { path: { edition_id: head.id }, query: { before: pageParam, words } } })),
    getNextPageParam: (last) => (last.more ? (last.entries.at(-1)?.number ?? null) : null),
  });
  const steps = (found.data?.pages.flatMap((each) => each.entries) ?? []).filter((step) => !named || step.name);
  const name = async (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const text = String(new FormData(event.currentTarget).get("version")).trim();
    if (!chosen || !text) return;
    try {
      await got(client.POST("/api/editions/{edition_id}/versions", { params: { path: { edition_id: head.id } }, body: { name: text, revision: chosen.number } }));
      await found.refetch();
    } catch (error) {
      failed(error);
    }
  };
  const restore = (step: Step) => {
    edit.operate({ kind: "restore", revision: step.number });
    desk().set({ panel: null });
  };
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center gap-3 text-soft">
        <label className="flex items-center gap-1.5" hidden={team}>
          You are
          <TextField
            label="Your name"
            value={who}
            placeholder="Your name"
            maxLength={80}
            onChange={(text) => {
              setWho(text);
              localStorage.setItem(WHO, text.trim());
            }}
            className="w-48"
          />
        </label>
        <TextField label="Find a step" value={words} placeholder="Find a step" maxLength={200} onChange={setWords} className="w-44" />
        <label className="flex items-center gap-1">
          <Tick checked={named} onChange={setNamed} /> only named versions
        </label>
      </div>
      <ol aria-label="Steps" className="max-h-[44vh] overflow-y-auto rounded-md border border-line">
        {steps.map((step) => (
          <li key={step.number} className={`border-b border-line last:border-0 ${chosen?.number === step.number ? "bg-pick" : ""}`}>
            <button type="button" aria-pressed={chosen?.number === step.number} onClick={() => setChosen(step)} className="flex w-full items-baseline gap-3 px-3 py-1 text-left hover:bg-side">
              <span className="w-8 shrink-0 text-right font-mono text-xs">{step.number}</span>
              <time className="w-32 shrink-0 whitespace-nowrap font-mono text-xs text-soft" dateTime={step.at}>
                {new Date(step.at).toLocaleString("en-GB", { day: "2-digit", month: "short", hour: "2-digit", minute: "2-digit", second: "2-digit" })}
              </time>
              <span className="min-w-0 flex-1 truncate">
                {STEPS[step.step]}
                {step.summary}
                {step.number === head.revision && <span className="text-soft"> – now</span>}
              </span>
              {step.name && (
                <b className="flex items-center gap-1 text-green">
                  <Bookmark size={12} /> {step.name}
                </b>
              )}
              <span className="text-soft">{step.who}</span>
            </button>
          </li>
        ))}
      </ol>
      {found.hasNextPage && (
        <Button className="mt-2" onClick={() => void found.fetchNextPage()}>
          Earlier steps
        </Button>
      )}
      {chosen ? (
        <form onSubmit={(event) => void name(event)} className="mt-3 flex flex-wrap items-center gap-1.5">
          <Button look="strong" why={chosen.number === head.revision && "This is the current state"} hint="Later steps stay in this list" onClick={() => restore(chosen)}>
            <RotateCcw size={14} /> Go back to this
          </Button>
          <Button why={chosen.number === head.revision && "This is the current state"} aria-pressed={comparing} onClick={() => setComparing(!comparing)}>
            Compare with now
          </Button>
          <TextField key={chosen.number} label="Name of the version" name="version" defaultValue={chosen.name ?? ""} placeholder="Name this version" maxLength={200} className="w-44" />
          <Button type="submit">Name it</Button>
        </form>
      ) : (
        <p className="mt-3 text-soft">Choose a step to go back to it, to name it or to compare it. Nothing that came after is lost.</p>
      )}
      {chosen && comparing && chosen.number !== head.revision && (
        <Compared scene={scene} first={{ edition: head.id, revision: chosen.number }} second={{ edition: head.id }} names={[chosen.name ? `in ${chosen.name}` : "then", "now"]} />
      )}
    </>
  );
}
