/** A file that lies on the web: fetched by its address, and going on where it broke off. */
import { CloudDownload } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, type Episode } from "../../api/client";
import { useEpisodeChange, useWork } from "../../desk/change";
import { Button, Heading, Trouble } from "../../ui/controls";
import { TextField } from "../../ui/fields";
import { Working } from "../../ui/Working";

export function FromAddress({ episode }: { episode: Episode }) {
  const work = useWork(episode.id);
  const [address, setAddress] = useState("");
  const fetching = useEpisodeChange(episode.id, () => got(client.POST("/api/episodes/{episode_id}/fetch-address", { params: { path: { episode_id: episode.id } }, body: { address, name: "" } })));
  const jobs = episode.jobs.filter((each) => each.kind === "fetch address" && each.state !== "cancelled");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    fetching.run(undefined, () => setAddress(""));
  };
  return (
    <section aria-label="From an address">
      <Heading>From an address</Heading>
      <form className="flex gap-1.5" onSubmit={submit}>
        <TextField label="Address of a file" type="url" value={address} onChange={setAddress} placeholder="https://" required maxLength={2000} className="flex-1" />
        <Button type="submit" why={fetching.busy && "Being asked for"}>
          <CloudDownload size={14} /> Fetch
        </Button>
      </form>
      <ul className="mt-1.5 space-y-1.5">
        {jobs.map((job) => (
          <li key={job.id} className="space-y-1">
            {job.state === "failed" ? (
              <>
                <Trouble>{job.trouble}</Trouble>
                <Button onClick={() => work.again(job.id)}>Try again</Button>
              </>
            ) : (
              <Working job={job} total={job.total} verb="Fetching" onStop={work.stop} counts="bytes" />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
