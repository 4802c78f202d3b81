/** What can be written about an episode, all of it in words that were said: titles, a summary, quotes, what and who is spoken of. */
import { Copy } from "lucide-react";
import { client, got, type Episode } from "../../api/client";
import type { components } from "../../api/schema";
import { useEpisodeChange } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import { put } from "../../desk/place";
import { At } from "../../page/times";
import { Button, Heading } from "../../ui/controls";
import { NumberField } from "../../ui/NumberField";
import type { Asked } from "./reuse";

type Found = components["schemas"]["ReuseOut"];
type Told = components["schemas"]["ToldOut"];

interface WrittenProps {
  episode: Episode;
  found: Found;
  reveal: (laid: number) => void;
  asked: Asked;
  ask: (asked: Asked) => void;
}

const copy = (text: string, what: string) => void navigator.clipboard.writeText(text).then(() => desk().say(`Copied ${what}`), failed);

export function Written({ episode, found, reveal, asked, ask }: WrittenProps) {
  const { titles = [], summary = [], quotes = [], keywords = [], names = [], links = [] } = found;
  const { count } = asked;
  const rename = useEpisodeChange(episode.id, (title: string) => got(client.PATCH("/api/episodes/{episode_id}", { params: { path: { episode_id: episode.id } }, body: { title, folder: null, archived: null, deleted: null } })));
  const tones = [...new Set(titles.map((each) => each.tone))];
  return (
    <>
      <div className="mt-2 flex gap-1.5">
        <Button className="flex-1" hint="A summary, chapters, quotes and links, to be edited" onClick={() => desk().set({ panel: "notes" })}>
          Notes …
        </Button>
        <Button className="flex-1" hint="The summary, to be edited and kept" onClick={() => desk().set({ panel: "summary" })}>
          Summary …
        </Button>
      </div>
      <Heading>Titles</Heading>
      <p className="mb-1.5 flex items-center gap-1.5 leading-snug text-soft">
        <span className="flex-1">{found.about}</span>
        <Button className="!px-2 !py-0.5 text-xs" onClick={() => ask({ ...asked, other_titles: asked.other_titles + 1 })}>
          Other titles
        </Button>
      </p>
      <dl className="space-y-1.5">
        {tones.map((tone) => (
          <div key={tone}>
            <dt className="text-xs text-soft">{tone}</dt>
            {titles
              .filter((each) => each.tone === tone)
              .map(({ title }) => (
                <dd key={title} className="flex items-start gap-1.5">
                  <span className="flex-1 font-serif leading-snug">{title}</span>
                  <Button className="!px-1.5 !py-0.5 text-xs" hint="Call the episode so" aria-label={`Call the episode “${title}”`} onClick={() => rename.run(title, () => desk().say(`The episode is called “${title}”`))}>
                    Use
                  </Button>
                </dd>
              ))}
          </div>
        ))}
      </dl>
      <Heading>Summary</Heading>
      <div className="mb-1.5 flex items-center gap-1.5">
        <NumberField label="Sentences of the summary" unit={count === 1 ? "sentence" : "sentences"} least={1} most={30} value={count} onChange={(wanted) => ask({ ...asked, count: wanted, again: 0 })} className="w-10" />
        <Button className="ml-auto !px-2 !py-0.5 text-xs" hint="Other sentences that were said" onClick={() => ask({ ...asked, again: asked.again + 1 })}>
          Another one
        </Button>
        <Button className=" !px-2 !py-0.5 text-xs" onClick={() => copy(summary.map((each) => each.text).join(" "), "the summary")}>
          <Copy size={12} /> Copy
        </Button>
      </div>
      <Said label="Summary" told={summary} reveal={reveal} />
      <Heading>Quotes</Heading>
      <Said label="Quotes" told={quotes} reveal={reveal} />
      <Heading>Spoken of</Heading>
      <p className="leading-snug">{keywords.join(", ")}</p>
      {names.length > 0 && (
        <>
          <Heading>Named</Heading>
          <p className="leading-snug">{names.join(", ")}</p>
        </>
      )}
      {links.length > 0 && (
        <>
          <Heading>Links that are mentioned</Heading>
          <p className="leading-snug">{links.join(", ")}</p>
        </>
      )}
    </>
  );
}

/** Sentences, each with where it was said. */
function Said({ label, told, reveal }: { label: string; told: readonly Told[]; reveal: (laid: number) => void }) {
  return (
    <ul aria-label={label} className="space-y-1">
      {told.map(({ text, laid }) => (
        <li key={laid} className="flex gap-1.5 leading-snug">
          <button type="button" title="Show it there" className="w-10 shrink-0 pt-px text-left font-mono text-xs text-soft hover:text-ink" onClick={() => (put(laid), reveal(laid))}>
            <At laid={laid} />
          </button>
          <span className="font-serif">{text}</span>
        </li>
      ))}
    </ul>
  );
}
