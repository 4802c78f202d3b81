import clsx from "clsx";
import { Tooltip } from "radix-ui";
import { Suspense, useCallback, useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useDropzone } from "react-dropzone";
import { useSearch } from "wouter";
import { client, got, type Episode, type Head } from "../api/client";
import { useMe } from "../api/me";
import { useNotices } from "../api/notices";
import { tellEnded } from "../desk/telling";
import { useEpisode, useHead, usePageWords, usePlan } from "../api/queries";
import { Monitor } from "../monitor/Monitor";
import { useEdit, type Edit } from "../page/edit";
import { places } from "../page/find";
import { NO_MARKS, type PageMark } from "../page/marks";
import { RestBox } from "../page/RestBox";
import { RetypeBox } from "../page/RetypeBox";
import { sourcesOf } from "../page/sources";
import { useOnlySelects, useShownSelects } from "../page/selectsShown";
import { Strip } from "../page/Strip";
import { Sheet, SheetBar } from "../page/Sheet";
import type { Stage } from "../page/stage";
import { TimesOf } from "../page/times";
import { flatten, type Tokens } from "../page/tokens";
import { player } from "../player/player";
import { STAGES } from "../stages";
import { Mishap } from "../ui/Mishap";
import { desk, failed, useDesk } from "../desk/desk";
import { here } from "../desk/place";
import { useShallow } from "zustand/react/shallow";
import { paste } from "../page/clipboard";
import { follow, read, write } from "./address";
import { PageMenu } from "./PageMenu";
import { Panels } from "./Panels";
import { Said } from "./Said";
import { onKey } from "./shortcuts";
import { TopBar } from "./TopBar";

const DIALOG = "[role=dialog], [role=alertdialog], [role=menu]";

export function Workspace({ episodeId }: { episodeId: string }) {
  const episode = useEpisode(episodeId);
  useNotices(episodeId, tellEnded);
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
  const { stage, mode, set } = useDesk(useShallow(({ stage, mode, set }) => ({ stage, mode, set })));
  const plan = usePlan(editionId, mode, head?.revision ?? 0).data;
  const tokens = useMemo(() => (page ? flatten(page) : { list: [], passage: [] }), [page]);
  const sources = useMemo(() => sourcesOf(episode, page?.passages), [episode, page]);
  const pictures = useMemo(() => new Map(episode.recordings.filter((each) => each.working_copy || each.key_pictures).map((each) => [each.id, each.working_copy ? each.id : `/api/recordings/${each.id}/keys`])), [episode.recordings]);
  const voices = useMemo(() => new Map(episode.voices.map((voice) => [voice.id, voice])), [episode.voices]);
  const edit = useEdit(editionId, episode.show_id);
  const search = useSearch();
  const reveal = useRef<(laid: number) => void>(() => undefined);
  const register = useCallback((next: (laid: number) => void) => void (reveal.current = next), []);
  const show = useCallback((laid: number) => reveal.current(laid), []);

  // Before anything is drawn that asks what is allowed.
  const offered = useRights(episode);

  useEffect(() => {
    const leave = follow({
      edition: localStorage.getItem(`jaskel.edition.${episode.id}`),
      stage: (offered.find((each) => each.begins?.(episode)) ?? offered[0])?.id ?? "",
    });
    return () => {
      leave();
      player.pause();
    };
    // Only when another episode is opened.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [episode.id]);

  useEffect(() => {
    if (plan) player.use(editionId, mode, plan);
  }, [editionId, mode, plan]);

  useEffect(() => {
    if (!head) return;
    const scene = { tokens, head, edit, plan, reveal: show };
    // What is behind a dialog is not meant.
    const listen = (event: KeyboardEvent) => document.querySelector(DIALOG) ?? onKey(event, scene);
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

  // Once the words are there, the page goes where the address says: to a place, or to the word that a search found.
  const ready = tokens.list.length > 0;
  useEffect(() => {
    if (ready && here().cursor > 0) show(here().cursor);
  }, [ready, show]);
  useEffect(() => {
    const { found } = read(search);
    if (!ready || !found) return;
    const params = { path: { edition_id: editionId }, query: found };
    void got(client.GET("/api/editions/{edition_id}/place", { params })).then(({ laid }) => {
      if (typeof laid === "number") {
        player.seek(laid);
        show(laid);
      } else desk().say("That word is no longer in this edition.");
      write();
    }, failed);
  }, [ready, search, editionId, show]);

  useEffect(() => {
    document.title = `${episode.title} – ${episode.show} – Jaskel`;
  }, [episode.title, episode.show]);

  const { getRootProps, isDragActive: dropping } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) => files.length && offered.find((each) => each.receive)?.receive?.(episode, files),
  });
  const transcribing = episode.jobs.some((job) => job.kind === "transcribe" && job.state === "running");
  const unsure = useMemo(() => (head ? places("unsure", tokens, head).length : 0), [tokens, head]);
  const started = page && page.passages.length > 0;
  const open = offered.find((each) => each.id === stage);
  useEffect(() => {
    // A link may name a stage that is not for whoever opens it.
    if (stage && !open && offered[0]) set({ stage: offered[0].id });
  }, [stage, open, offered, set]);
  const [marks, setMarks] = useState(NO_MARKS);
  const good = useShownSelects(page, episode.selects);
  useOnlySelects(good);

  return (
    <TimesOf plan={plan} tokens={tokens}>
      <div
        className="workspace grid h-full grid-cols-[102px_minmax(0,1fr)_312px] grid-rows-[48px_minmax(0,1fr)_58px] overflow-hidden"
        {...getRootProps({ role: undefined, tabIndex: undefined })}
      >
        <TopBar episode={episode} head={head} plan={plan} edit={edit} />
        <nav aria-label="Stages" className="stages flex flex-col gap-0.5 border-r border-line bg-rail py-2.5">
          {STAGES.map(({ id, name }, index) => offered.some((each) => each.id === id) && (
            <button
              key={id}
              type="button"
              aria-current={stage === id ? "step" : undefined}
              aria-keyshortcuts={`${index + 1}`}
              data-key={index + 1}
              onClick={() => set({ stage: id })}
              className={clsx("index-tab", stage === id && "index-tab-open")}
            >
              {name}
            </button>
          ))}
        </nav>
        <main className="flex min-h-0 flex-col border-r border-line bg-paper">
          {started && head ? (
            <PageMenu scene={{ tokens, head, edit, plan, reveal: show }}>
              <Sheet {...{ episode, page, head, tokens, sources, voices, plan, edit, register, marks }} lanes={open?.lanes}>
                {transcribing && "transcribing · "}
                {page.words.toLocaleString("en")} words{unsure > 0 && ` · ${unsure} unsure`}
              </Sheet>
            </PageMenu>
          ) : (
            <>
              <SheetBar />
              <div className="min-h-0 flex-1">
                <Beginning episode={episode} />
              </div>
            </>
          )}
          <RetypeBox tokens={tokens} edit={edit} />
          {head && <RestBox tokens={tokens} head={head} edit={edit} />}
          <Said undo={edit.undo} stays />
        </main>
        <aside className="flex min-h-0 flex-col bg-side" aria-label="Monitor and bench">
          <div className="p-3 pb-1.5">
            <Monitor episodeId={episode.id} editionId={editionId} title={episode.title} plan={plan} pictures={pictures}>
              {head && open?.Overlay && (
                <Suspense>
                  <open.Overlay head={head} edit={edit} />
                </Suspense>
              )}
            </Monitor>
          </div>
          <div className="min-h-0 flex-1 overflow-y-auto px-3 pb-3">
            {open && (
              <Mishap key={open.id}>
                <Suspense fallback={<p className="mt-4 text-soft">Opening …</p>}>
                  <open.Bench {...{ episode, page, head, tokens, sources, voices, plan, edit }} reveal={show} />
                </Suspense>
              </Mishap>
            )}
          </div>
        </aside>
        {page && head ? (
          <Strip page={page} head={head} sources={sources} plan={plan} voices={episode.voices} selects={good} reveal={show} />
        ) : (
          <footer className="col-span-3 border-t border-line bg-rail" />
        )}
        {dropping && (
          <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-xl border-2 border-dashed border-blue bg-paper/85 font-serif text-2xl">
            Drop to add to “{episode.title}”
          </div>
        )}
        {head && open?.useMarks && <StageMarks key={open.id} use={open.useMarks} head={head} tokens={tokens} edit={edit} hand={setMarks} />}
        {head && page && (
          <Mishap>
            <Panels episode={episode} page={page} scene={{ tokens, head, edit, plan, reveal: show }} />
          </Mishap>
        )}
      </div>
    </TimesOf>
  );
}

/** Says what whoever sits here may do with the show of an episode; gives the stages that are for them. */
function useRights(episode: Episode): readonly Stage[] {
  const me = useMe().data;
  const { may } = episode;
  useLayoutEffect(() => desk().set({ rights: may, team: me?.team ?? false, me: me?.id ?? "" }), [may, me]);
  return useMemo(() => STAGES.filter((stage) => may.includes(stage.needs)), [may]);
}

/** Draws nothing itself: hands on the marks of the stage that is open, and none once it is left. */
function StageMarks({ use, head, tokens, edit, hand }: { use: NonNullable<Stage["useMarks"]>; head: Head; tokens: Tokens; edit: Edit; hand: (marks: readonly PageMark[]) => void }) {
  const marks = use(head, tokens, edit);
  useEffect(() => hand(marks), [hand, marks]);
  useEffect(() => () => hand(NO_MARKS), [hand]);
  return null;
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
            ? "In Gather, say whether the recordings belong together."
            : waiting
            ? "Transcribe the recording in Gather."
            : episode.recordings.length
              ? "Check your recordings in Gather."
              : "Drop a recording of speech anywhere in this window: sound or video, as it came from the recorder."}
      </p>
    </div>
  );
}
