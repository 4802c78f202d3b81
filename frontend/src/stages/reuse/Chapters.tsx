/** The chapters of the edition: found where the subject changes, then named, moved and joined by hand. */
import { Merge, Play } from "lucide-react";
import { useState } from "react";
import { author } from "../../api/author";
import { client, got, type Episode, type Head } from "../../api/client";
import { change } from "../../desk/change";
import { playhead, put } from "../../desk/place";
import { beginChapter, joinChapter, moveChapter, nameChapter, type Chapter } from "../../page/chapters";
import type { BenchProps } from "../../page/stage";
import { At } from "../../page/times";
import { indexAt } from "../../page/tokens";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { NumberField } from "../../ui/NumberField";
import { TextField } from "../../ui/fields";

interface ChaptersProps extends Pick<BenchProps, "episode" | "page" | "tokens" | "reveal"> {
  head: Head;
  job: Episode["jobs"][number] | undefined;
  ready: boolean;
}

export function Chapters({ episode, head, page, tokens, reveal, job, ready }: ChaptersProps) {
  const [most, setMost] = useState(12);
  const busy = job?.state === "queued" || job?.state === "running";
  const find = () =>
    change([["episode"], ["head"]], () => got(client.POST("/api/editions/{edition_id}/chapters", { params: { path: { edition_id: head.id } }, body: { an_hour: most, ...author() } })));
  const placed = episode.chapters
    .flatMap((chapter) => {
      const token = page?.passages.filter(({ recording }) => recording === chapter.recording).flatMap((each) => each.tokens).find(({ t, len }) => t >= 0 && chapter.at >= t && chapter.at < t + len);
      return token ? [{ chapter, laid: token.at }] : [];
    })
    .sort((a, b) => a.laid - b.laid);
  const elsewhere = episode.chapters.length - placed.length;
  const here = () => tokens.list[indexAt(tokens.list, playhead())]?.at ?? 0;
  return (
    <>
      <div className="mt-2 flex items-center gap-1.5">
        <NumberField label="Chapters in an hour, at most" unit="an hour at most" least={1} most={120} value={most} onChange={setMost} className="w-12" />
        <Button look={placed.length ? "plain" : "strong"} className="ml-auto" why={(!ready && "It is still being found out what is said") || (busy && "They are being found")} onClick={() => void find()}>
          {placed.length ? "Find anew" : "Find chapters"}
        </Button>
      </div>
      {job?.state === "failed" && ready && <p className="mt-2 leading-snug text-red">{job.trouble}</p>}
      <Heading aside={placed.length ? `${placed.length}` : undefined}>Chapters</Heading>
      {placed.length ? (
        <ol aria-label="Chapters" className="divide-y divide-line rounded-md border border-line bg-paper">
          {placed.map(({ chapter, laid }) => (
            <Row key={chapter.id} {...{ chapter, laid, head }} show={() => (put(laid), reveal(laid))} here={here} />
          ))}
        </ol>
      ) : (
        <p className="leading-snug text-soft">None yet. Let them be found where the subject changes, or begin one at the playhead with Shift+C.</p>
      )}
      {elsewhere > 0 && <p className="mt-1.5 leading-snug text-soft">{elsewhere === 1 ? "One more begins" : `${elsewhere} more begin`} at words that are not in this edition.</p>}
      <div className="mt-2">
        <Button hint="Shift+C" onClick={() => void beginChapter(head, here(), "New chapter")}>
          Begin one at the playhead
        </Button>
      </div>
    </>
  );
}

function Row({ chapter, laid, head, show, here }: { chapter: Chapter; laid: number; head: Head; show: () => void; here: () => number }) {
  const [typed, setTyped] = useState<string | null>(null);
  const save = () => {
    const title = typed?.trim();
    setTyped(null);
    if (title && title !== chapter.title) void nameChapter(head.episode_id, chapter, title);
  };
  return (
    <li className="space-y-1 px-2 py-1.5">
      <div className="flex items-center gap-1.5">
        <button type="button" onClick={show} aria-label={`Go to “${chapter.title}”`} className="w-11 shrink-0 text-left font-mono text-xs text-soft hover:text-ink">
          <At laid={laid} />
        </button>
        <TextField
          label={`Title of the chapter “${chapter.title}”`}
          value={typed ?? chapter.title}
          maxLength={200}
          onChange={setTyped}
          onBlur={save}
          onKeyDown={(event) => {
            if (event.key === "Enter") save();
            if (event.key === "Escape") setTyped(null);
          }}
          className="min-w-0 flex-1"
        />
      </div>
      <div className="flex items-center gap-1">
        <span className="flex-1 text-xs text-soft">{chapter.by_hand ? "" : "proposed"}</span>
        <Button className="!px-1.5 !py-0.5 text-xs" hint="Hear how it begins" aria-label={`Hear how “${chapter.title}” begins`} onClick={() => player.playAround(laid, 2)}>
          <Play size={12} />
        </Button>
        <Button className="!px-1.5 !py-0.5 text-xs" hint="Let it begin at the playhead" onClick={() => void moveChapter(head, chapter, here())}>
          Move here
        </Button>
        <Button className="!px-1.5 !py-0.5 text-xs" hint="Join it to the chapter before it" aria-label={`Join “${chapter.title}” to the chapter before it`} onClick={() => void joinChapter(head.episode_id, chapter)}>
          <Merge size={12} />
        </Button>
      </div>
    </li>
  );
}
