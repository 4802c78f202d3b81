import { useQuery } from "@tanstack/react-query";
import { CloudDownload } from "lucide-react";
import { useState } from "react";
import { client, got, type Episode, type HostTake } from "../../api/client";
import { bytes } from "../../api/time";
import { useEpisodeChange, useWork } from "../../desk/change";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";
import { Tick } from "../../ui/fields";

/** What guests recorded of themselves on a remote host: choose a take and whose files are wanted. */
export function RemoteHost({ episode }: { episode: Episode }) {
  const work = useWork(episode.id);
  const host = useQuery({ queryKey: ["recording host", episode.id], queryFn: () => got(client.GET("/api/episodes/{episode_id}/recording-host", { params: { path: { episode_id: episode.id } } })), retry: false, staleTime: 30_000 });
  const job = episode.jobs.find((each) => each.kind === "fetch" && (each.state === "queued" || each.state === "running"));
  const broken = episode.jobs.findLast((each) => each.kind === "fetch" && each.state === "failed");
  if (host.data && !host.data.set) return null;
  return (
    <section aria-label="Recording host">
      <Heading>From the recording host</Heading>
      {host.isError && <Trouble>{host.error.message}</Trouble>}
      {job && <Working job={job} total={job.total} verb="Fetching" onStop={work.stop} counts="bytes" />}
      {!job && broken && <Trouble>{broken.trouble}</Trouble>}
      {host.data?.sessions.map((session) => (
        <details key={session.id} className="mb-1.5 rounded-md border border-line bg-paper px-2.5 py-1.5">
          <summary className="cursor-pointer">
            {session.title} <span className="text-soft">{session.recorded}</span>
          </summary>
          {session.takes.map((take) => (
            <Take key={take.id} episode={episode} take={take} busy={job !== undefined} />
          ))}
        </details>
      ))}
    </section>
  );
}

function Take({ episode, take, busy }: { episode: Episode; take: HostTake; busy: boolean }) {
  const [left, setLeft] = useState<readonly string[]>([]);
  const wanted = take.files.map((file) => file.id).filter((id) => !left.includes(id));
  const fetching = useEpisodeChange(episode.id, () =>
    got(client.POST("/api/episodes/{episode_id}/fetch", { params: { path: { episode_id: episode.id } }, body: { take: take.id, files: wanted } })),
  );
  const toggle = (id: string) => setLeft(left.includes(id) ? left.filter((each) => each !== id) : [...left, id]);
  return (
    <fieldset className="mt-1.5 border-t border-line pt-1.5">
      <legend className="sr-only">Take {take.number}</legend>
      <div className="flex items-center justify-between">
        <b className="font-semibold">Take {take.number}</b>
        <Button className="!py-0.5" aria-label={`Fetch take ${take.number}`} why={busy ? "A take is being fetched" : !wanted.length && "Tick whose files you want"} onClick={() => fetching.run()}>
          <CloudDownload size={14} /> Fetch
        </Button>
      </div>
      {take.files.map((file) => (
        <label key={file.id} className="flex items-center gap-1.5">
          <Tick checked={!left.includes(file.id)} onChange={() => toggle(file.id)} />
          <span className="min-w-0 flex-1 truncate">{file.guest}</span>
          <span className="text-xs text-soft">{bytes(file.size)}</span>
        </label>
      ))}
    </fieldset>
  );
}
