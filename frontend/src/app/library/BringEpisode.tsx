/** Brings in an episode that was written as one archive elsewhere: it is sent, and then unpacked by the worker. */
import { PackageOpen } from "lucide-react";
import { useRef, useState } from "react";
import { useLocation } from "wouter";
import { client, got, queryClient, UNREACHABLE } from "../../api/client";
import { keys } from "../../api/queries";
import { problemOf, sendFile } from "../../api/sending";
import { failed } from "../../desk/desk";
import { Button, Progress } from "../../ui/controls";

const LOOK_MS = 300;

interface Coming {
  name: string;
  doing: "Sending" | "Unpacking";
  done: number;
  total: number;
  giveUp: () => void;
}

/** The id of the episode once it is there; nothing where it was given up, or cannot be brought in. */
async function unpacked(upload: string, told: (done: number, total: number) => void): Promise<string | undefined> {
  const params = { path: { archive_id: upload } };
  for (let { job, episode } = await got(client.POST("/api/archives/{archive_id}/bring", { params })); ; { job, episode } = await got(client.GET("/api/archives/{archive_id}/job", { params }))) {
    if (job.state === "done") return episode;
    if (job.state === "cancelled") return undefined;
    if (job.state === "failed") return void failed(new Error(job.trouble));
    told(job.done, job.total);
    await new Promise((later) => setTimeout(later, LOOK_MS));
  }
}

export function BringEpisode() {
  const input = useRef<HTMLInputElement>(null);
  const [, go] = useLocation();
  const [coming, setComing] = useState<Coming | null>(null);
  const bring = async (file: File) => {
    const { sent, giveUp } = sendFile({
      file,
      endpoint: "/api/archives",
      purpose: "archive",
      onProgress: (done) => setComing((now) => now && { ...now, done }),
    });
    setComing({ name: file.name, doing: "Sending", done: 0, total: file.size, giveUp });
    try {
      const upload = await sent;
      if (!upload) return;
      const stop = () => void client.DELETE("/api/archives/{archive_id}", { params: { path: { archive_id: upload } } });
      const episode = await unpacked(upload, (done, total) => setComing({ name: file.name, doing: "Unpacking", done, total, giveUp: stop }));
      void queryClient.invalidateQueries({ queryKey: keys.shows });
      if (episode) go(`/episodes/${episode}`);
    } catch (error) {
      failed(new Error(problemOf(error).detail ?? UNREACHABLE));
    } finally {
      setComing(null);
    }
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        accept=".zip,application/zip"
        aria-label="Archive of an episode"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void bring(file);
          event.target.value = "";
        }}
      />
      {coming ? (
        <span className="flex items-center gap-2 text-soft" role="status">
          <span className="max-w-52 truncate" title={coming.name}>
            {coming.doing} {coming.name}
          </span>
          <span className="w-28">
            <Progress label={`${coming.doing} ${coming.name}`} done={coming.done} total={coming.total} />
          </span>
          <Button look="quiet" onClick={coming.giveUp}>
            Cancel
          </Button>
        </span>
      ) : (
        <Button hint="A whole episode that was exported elsewhere as one file" onClick={() => input.current?.click()}>
          <PackageOpen size={14} /> Bring an episode …
        </Button>
      )}
    </>
  );
}
