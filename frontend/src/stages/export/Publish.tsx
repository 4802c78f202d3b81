/** Publishing an episode: what was exported goes to the host, and into the feed of the show. */
import { useQuery } from "@tanstack/react-query";
import { Rss } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, type Episode } from "../../api/client";
import type { SchemaFeedOut as Feed } from "../../api/schema";
import { useChange, useEpisodeChange, useWork } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Line, TextField } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Working } from "../../ui/Working";

const keyOf = (episode: Episode) => ["feed", episode.show_id, episode.id] as const;

export const useFeed = (episode: Episode) =>
  useQuery({ queryKey: keyOf(episode), queryFn: () => got(client.GET("/api/shows/{show_id}/feed", { params: { path: { show_id: episode.show_id }, query: { episode: episode.id } } })) }).data;

/** Forms that a feed can be listened to or watched in. */
const HEARD = new Set(["mp3", "m4a", "opus", "flac", "wav", "bwf", "mp4", "av1", "mov", "mkv", "webm"]);

const FILMS = new Set(["mp4", "av1", "mov", "mkv", "webm"]);

export const isFilm = (form: string) => FILMS.has(form);

export const canBePublished = (forms: readonly string[]) => forms.some((each) => HEARD.has(each));

/** What is told of an episode before what was exported of it is published. */
export function PublishForm({ episode, job, feed, done }: { episode: Episode; job: string; feed: Feed; done: () => void }) {
  const before = feed.published.find((each) => each.episode_id === episode.id);
  const [title, setTitle] = useState(before?.title ?? episode.title);
  const [summary, setSummary] = useState(before?.summary ?? "");
  const [season, setSeason] = useState(before?.season ?? feed.published[0]?.season ?? 0);
  const [number, setNumber] = useState(before?.number ?? feed.next);
  const publish = useEpisodeChange(episode.id, () =>
    got(client.POST("/api/episodes/{episode_id}/publish", { params: { path: { episode_id: episode.id } }, body: { export: job, title, summary, season, number, persons: feed.persons } })),
  );
  const submit = (event: FormEvent) => {
    event.preventDefault();
    publish.run(undefined, done);
  };
  return (
    <form aria-label="Publish" className="mt-2 space-y-1.5 border-t border-line pt-2" onSubmit={submit}>
      <Line label="title">
        <TextField label="Title in the feed" value={title} onChange={setTitle} required maxLength={200} className="w-52" />
      </Line>
      <label className="block text-soft">
        summary
        <textarea aria-label="Summary in the feed" value={summary} onChange={(event) => setSummary(event.target.value)} rows={4} maxLength={4000} className="mt-0.5 w-full rounded-md border border-line bg-paper px-2 py-1 text-ink" />
      </label>
      <div className="flex gap-3 text-soft">
        <NumberField label="Season, 0 for none" unit="" value={season} least={0} most={9999} onChange={setSeason} className="w-10" /> season
        <NumberField label="Number of the episode, 0 for none" unit="" value={number} least={0} most={99999} onChange={setNumber} className="w-12" /> number
      </div>
      <p className="text-xs leading-snug text-soft">{feed.persons.length ? `Heard in it: ${feed.persons.map((each) => `${each.name} (${each.role})`).join(", ")}. Roles are those of the voices.` : "Name the voices under Read, and the feed says who is heard."}</p>
      <div className="flex gap-1.5">
        <Button type="submit" look="strong" why={publish.busy && "Being started"}>
          <Rss size={14} /> {before ? "Publish again" : "Publish"}
        </Button>
        <Button onClick={done}>Cancel</Button>
      </div>
    </form>
  );
}

/** What of the show is published, and where. */
export function FeedSection({ episode, feed }: { episode: Episode; feed: Feed }) {
  const work = useWork(episode.id);
  const withdraw = useEpisodeChange(episode.id, () => got(client.POST("/api/episodes/{episode_id}/withdraw", { params: { path: { episode_id: episode.id } } })));
  const jobs = episode.jobs.filter((job) => (job.kind === "publish" || job.kind === "withdraw") && job.state !== "cancelled");
  if (!feed.host) return null;
  return (
    <section aria-label="Feed">
      <Heading aside={feed.published.length > 0 && `${feed.published.length} published`}>Feed</Heading>
      <ul className="space-y-2">
        {jobs.map((job) =>
          job.state === "failed" ? (
            <li key={job.id} className="space-y-1">
              <Trouble>{job.trouble}</Trouble>
              <Button onClick={() => work.again(job.id)}>Try again</Button>
            </li>
          ) : (
            <li key={job.id}>
              <Working job={job} total={job.total} verb={job.kind === "publish" ? "Publishing" : "Withdrawing"} onStop={work.stop} counts="bytes" />
            </li>
          ),
        )}
      </ul>
      {feed.published.length === 0 && jobs.length === 0 && <p className="leading-snug text-soft">Nothing is published yet. Export for a podcast feed, then publish what came of it.</p>}
      <ul aria-label="Published episodes" className="space-y-1">
        {feed.published.map((each) => (
          <li key={each.id} className="flex items-baseline justify-between gap-2">
            <a href={each.files[0]} target="_blank" rel="noreferrer" className="min-w-0 truncate underline decoration-line underline-offset-2 hover:text-blue">
              {each.number > 0 && `${each.season > 0 ? `${each.season}.` : ""}${each.number} `}
              {each.title}
            </a>
            {each.episode_id === episode.id && (
              <Button look="quiet" className="!px-1 !py-0" hint="Out of the feed and off the host; the exports stay" onClick={() => withdraw.run()}>
                Withdraw
              </Button>
            )}
          </li>
        ))}
      </ul>
      <p className="mt-1 flex flex-wrap gap-x-3 text-xs">
        {feed.published.length > 0 && (
          <a href={feed.address} target="_blank" rel="noreferrer" className="underline underline-offset-2 hover:text-blue">
            The feed
          </a>
        )}
        <a href={`/api/shows/${episode.show_id}/feed.xml`} className="underline underline-offset-2 hover:text-blue">
          The feed as a file
        </a>
        <a href={feed.host} target="_blank" rel="noreferrer" className="underline underline-offset-2 hover:text-blue">
          What the host has
        </a>
      </p>
      <Describe episode={episode} feed={feed} />
    </section>
  );
}

/** What the feed says of the show. */
function Describe({ episode, feed }: { episode: Episode; feed: Feed }) {
  const keep = useChange([keyOf(episode)], (body: Feed["fields"]) => got(client.PUT("/api/shows/{show_id}/feed", { params: { path: { show_id: episode.show_id } }, body })));
  const { author, site, language } = feed.fields;
  return (
    <details className="mt-1.5">
      <summary className="cursor-pointer text-soft hover:text-ink">What it says of the show</summary>
      <form
        key={`${author} ${site} ${language}`}
        className="mt-1 space-y-1"
        onSubmit={(event) => {
          event.preventDefault();
          const form = new FormData(event.currentTarget);
          const text = (name: string) => String(form.get(name)).trim();
          keep.run({ author: text("author"), site: text("site"), language: text("language") }, () => desk().say("The feed says so with the next episode"));
        }}
      >
        <Line label="made by">
          <TextField label="Who makes the show" name="author" defaultValue={author} maxLength={128} className="w-52" />
        </Line>
        <Line label="its site">
          <TextField label="Site of the show" name="site" type="url" defaultValue={site} placeholder="https://" maxLength={500} className="w-52" />
        </Line>
        <Line label="language">
          <span className="flex gap-1">
            <TextField label="Language of the feed" name="language" defaultValue={language} placeholder="as found" pattern="[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}" maxLength={20} className="w-20" />
            <Button type="submit">Save</Button>
          </span>
        </Line>
      </form>
    </details>
  );
}
