import clsx from "clsx";
import { BookOpen, FolderInput, ListChecks, Scissors, Share, type LucideIcon } from "lucide-react";
import { Tooltip } from "radix-ui";
import { useCallback, useEffect, useMemo, useRef, useState, type DragEvent } from "react";
import { useSearch } from "wouter";
import { client, got, type Episode } from "../api/client";
import { useNotices } from "../api/notices";
import { useEpisode, useHead, usePageWords, usePlan } from "../api/queries";
import { Monitor } from "../monitor/Monitor";
import { useEdit } from "../page/edit";
import { Fine, FineControls } from "../page/Fine";
import { Page } from "../page/Page";
import { RetypeBox } from "../page/RetypeBox";
import { sourcesOf } from "../page/sources";
import { Strip } from "../page/Strip";
import { flatten } from "../page/tokens";
import { player } from "../player/player";
import { CutBench } from "../stages/cut/CutBench";
import { ExportBench } from "../stages/export/ExportBench";
import { GatherBench } from "../stages/gather/GatherBench";
import { add } from "../stages/gather/upload";
import { ReadBench } from "../stages/read/ReadBench";
import { TidyBench } from "../stages/tidy/TidyBench";
import { Button, Choice } from "../ui/controls";
import { desk, keepStage, stageOf, useDesk, type Stage } from "./desk";
import { paste } from "./clipboard";
import { Panels } from "./Panels";
import { onKey } from "./shortcuts";
import { TopBar } from "./TopBar";

const STAGES: readonly (readonly [Stage, string, LucideIcon])[] = [
  ["gather", "Gather", FolderInput],
  ["read", "Read", BookOpen],
  ["cut", "Cut", Scissors],
  ["tidy", "Tidy", ListChecks],
  ["export", "Export", Share],
];

export function Workspace({ episodeId }: { episodeId: string }) {
  const episode = useEpisode(episodeId);
  useNotices(episodeId);
  if (episode.isPending) return <Empty text="Opening the episode …" />;
  if (episode.isError) return <Empty text={episode.error.message} />;
  return (
    <Tooltip.Provider delayDuration={500}>
      <Desk episode={episode.data} />
    </Tooltip.Provider>
  );
}

function Empty({ text }: { text: string }) {
  return <p className="grid h-full place-items-center text-soft">{text}</p>;
}

function Desk({ episode }: { episode: Episode }) {
  const wantedEdition = useDesk((state) => state.edition);
  const editionId = (episode.editions.find((each) => each.id === wantedEdition) ?? episode.editions[0])?.id ?? "";
  const head = useHead(editionId).data;
  const page = usePageWords(editionId, head?.layout).data;
  const { stage, mode, magnification, showStruck, set } = useDesk();
  const plan = usePlan(editionId, mode, head?.revision ?? 0).data;
  const tokens = useMemo(() => (page ? flatten(page) : { list: [], passage: [] }), [page]);
  const sources = useMemo(() => sourcesOf(episode), [episode]);
  const pictures = useMemo(() => new Set(episode.recordings.filter((each) => each.working_copy).map((each) => each.id)), [episode.recordings]);
  const voices = useMemo(() => new Map(episode.voices.map((voice) => [voice.id, voice])), [episode.voices]);
  const edit = useEdit(editionId, episode.show_id);
  const [dropping, setDropping] = useState(false);
  const reveal = useRef<(laid: number) => void>(() => undefined);
  const register = useCallback((next: (laid: number) => void) => void (reveal.current = next), []);
  const show = useCallback((laid: number) => reveal.current(laid), []);

  useEffect(() => {
    desk().set({ playhead: 0, selection: null, retyping: false, said: null, panel: null, edition: localStorage.getItem(`jaskel.edition.${episode.id}`), stage: stageOf(episode.id) ?? (episode.recordings.length ? "cut" : "gather") });
    return () => player.pause();
    // Only when another episode is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [episode.id]);

  useEffect(() => useDesk.subscribe((now, before) => (now.stage === before.stage ? undefined : keepStage(episode.id, now.stage))), [episode.id]);

  useEffect(() => {
    if (plan) player.use(editionId, mode, plan);
  }, [editionId, mode, plan]);

  useEffect(() => {
    if (!head) return;
    const scene = { tokens, head, edit, plan, reveal: show };
    const listen = (event: KeyboardEvent) => onKey(event, scene);
    const pasted = (event: ClipboardEvent) => {
      if (event.target instanceof Element && event.target.closest("input, textarea, [contenteditable], [role=dialog]")) return;
      event.preventDefault();
      void paste(scene, event.clipboardData?.getData("text/plain"));
    };
    window.addEventListener("keydown", listen);
    window.addEventListener("paste", pasted);
    return () => {
      window.removeEventListener("keydown", listen);
      window.removeEventListener("paste", pasted);
    };
  }, [tokens, head, edit, plan, show]);

  // A hit of a search opens its episode at the word.
  const ready = tokens.list.length > 0;
  const search = useSearch();
  useEffect(() => {
    const query = new URLSearchParams(search);
    const recording = query.get("recording");
    if (!ready || !recording) return;
    window.history.replaceState(null, "", window.location.pathname);
    const params = { path: { edition_id: editionId }, query: { recording, at: Number(query.get("at")) } };
    void got(client.GET("/api/editions/{edition_id}/place", { params })).then(({ laid }) => {
      if (laid === null || laid === undefined) return desk().say("This edition does not have that word any more.");
      player.seek(laid);
      show(laid);
    });
  }, [ready, search, editionId, show]);

  useEffect(() => {
    document.title = `${episode.title} – ${episode.show} – Jaskel`;
  }, [episode.title, episode.show]);

  const drop = (event: DragEvent) => {
    event.preventDefault();
    setDropping(false);
    const files = [...event.dataTransfer.files];
    if (!files.length) return;
    set({ stage: "gather" });
    add(episode.id, files);
  };
  const transcribing = episode.jobs.some((job) => job.kind === "transcribe" && job.state === "running");
  const started = page && page.passages.length > 0;

  return (
    <div
      className="grid h-full grid-cols-[68px_minmax(0,1fr)_312px] grid-rows-[48px_minmax(0,1fr)_58px] overflow-hidden"
      onDragOver={(event) => {
        event.preventDefault();
        setDropping(true);
      }}
      onDragLeave={(event) => event.currentTarget === event.target && setDropping(false)}
      onDrop={drop}
    >
      <TopBar episode={episode} head={head} plan={plan} edit={edit} />
      <nav aria-label="Stages" className="flex flex-col gap-0.5 border-r border-line bg-rail py-2.5">
        {STAGES.map(([key, name, Icon]) => (
          <button
            key={key}
            type="button"
            aria-current={stage === key ? "step" : undefined}
            onClick={() => set({ stage: key })}
            className={clsx(
              "ml-1.5 flex flex-col items-center gap-1 rounded-l-lg py-2 text-[11px]",
              stage === key ? "bg-paper font-semibold text-ink" : "text-soft hover:text-ink",
            )}
          >
            <Icon size={22} strokeWidth={1.6} />
            {name}
          </button>
        ))}
      </nav>
      <main className="flex min-h-0 flex-col border-r border-line bg-paper">
        <div className="flex items-center gap-2.5 py-2.5 pr-5 pl-[94px] text-soft">
          <Choice
            label="Magnification"
            value={magnification}
            options={[
              ["prose", "Prose"],
              ["score", "Score"],
              ["fine", "Fine"],
            ]}
            onChange={(next) => set({ magnification: next })}
          />
          {magnification === "fine" && <FineControls />}
          <Button look="quiet" aria-pressed={showStruck} hint="H" onClick={() => set({ showStruck: !showStruck })}>
            struck words: <b className="text-ink">{showStruck ? "shown" : "hidden"}</b>
          </Button>
          {started && magnification !== "fine" && (
            <span className="ml-auto">
              {transcribing && "transcribing · "}
              {page.words.toLocaleString("en")} words{page.unsure > 0 && ` · ${page.unsure} unsure`}
            </span>
          )}
        </div>
        <div className="min-h-0 flex-1">
          {started && head ? (
            magnification === "fine" ? (
              <Fine page={page} head={head} tokens={tokens} sources={sources} voices={voices} edit={edit} register={register} />
            ) : (
              <Page page={page} head={head} tokens={tokens} sources={sources} voices={voices} episode={episode} edit={edit} register={register} />
            )
          ) : (
            <Beginning episode={episode} />
          )}
        </div>
        <RetypeBox tokens={tokens} edit={edit} />
        <Said undo={edit.undo} />
      </main>
      <aside className="min-h-0 overflow-y-auto bg-side p-3" aria-label="Monitor and bench">
        <Monitor episodeId={episode.id} title={episode.title} plan={plan} pictures={pictures} />
        {stage === "gather" && <GatherBench episode={episode} edit={edit} page={page} />}
        {stage === "read" && <ReadBench {...{ episode, page, head, tokens, voices, edit }} reveal={show} />}
        {stage === "cut" && head && page && <CutBench {...{ episode, head, page, tokens, edit, sources, voices, plan }} reveal={show} />}
        {stage === "tidy" && head && page && <TidyBench showId={episode.show_id} {...{ head, tokens, voices, edit }} reveal={show} />}
        {stage === "export" && head && <ExportBench episode={episode} head={head} />}
      </aside>
      {page && head ? (
        <Strip page={page} head={head} sources={sources} reveal={show} />
      ) : (
        <footer className="col-span-3 border-t border-line bg-rail" />
      )}
      {dropping && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-xl border-2 border-dashed border-blue bg-paper/85 font-serif text-2xl">
          Drop to add to “{episode.title}”
        </div>
      )}
      {head && <Panels episode={episode} scene={{ tokens, head, edit, plan, reveal: show }} />}
    </div>
  );
}

/** What stands on the page while it has no words. */
function Beginning({ episode }: { episode: Episode }) {
  const busy = episode.jobs.find((job) => job.state === "queued" || job.state === "running");
  const proposed = episode.sessions.some((session) => session.state === "proposed");
  const waiting = episode.recordings.some((recording) => recording.state === "ready" && recording.transcript === "none");
  return (
    <div className="mx-auto grid h-full max-w-md place-content-center gap-2 text-center">
      <p className="font-serif text-2xl">{busy ? "The words appear here" : episode.recordings.length ? "Nothing to read yet" : "An empty page"}</p>
      <p className="text-soft">
        {busy
          ? "They come as they are recognised; you need not wait for the end."
          : proposed
            ? "Say under Gather whether the recordings belong together."
            : waiting
            ? "Let the recording be transcribed under Gather."
            : episode.recordings.length
              ? "Look under Gather how the recordings stand."
              : "Drop a recording of speech anywhere in this window: sound or video, as it came from the recorder."}
      </p>
    </div>
  );
}

/** What was just done, with undo beside it. */
function Said({ undo }: { undo: () => void }) {
  const said = useDesk((state) => state.said);
  const number = said?.number;
  useEffect(() => {
    if (number === undefined) return;
    const timer = setTimeout(() => desk().said?.number === number && desk().set({ said: null }), 9_000);
    return () => clearTimeout(timer);
  }, [number]);
  return (
    <div role="status" aria-live="polite" className="pointer-events-none relative h-0">
      {said && (
        <div
          className={clsx(
            "pointer-events-auto absolute bottom-3 left-1/2 flex max-w-[92%] -translate-x-1/2 items-center gap-3 rounded-lg px-3.5 py-2 shadow-lg",
            said.trouble ? "bg-red text-paper" : "bg-ink text-paper",
          )}
        >
          <span className="leading-snug">{said.text}</span>
          {said.also && (
            <button
              type="button"
              className="font-semibold whitespace-nowrap underline underline-offset-2"
              onClick={() => {
                said.also?.run();
                desk().set({ said: null });
              }}
            >
              {said.also.text}
            </button>
          )}
          {said.undo && (
            <button type="button" className="font-semibold underline underline-offset-2" onClick={undo}>
              Undo
            </button>
          )}
        </div>
      )}
    </div>
  );
}
