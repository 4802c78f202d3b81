/** The folder that a team shares in the cloud: looked into, and fetched from. */
import { useQuery } from "@tanstack/react-query";
import { CloudDownload, Folder } from "lucide-react";
import { useState } from "react";
import { client, got, type Episode } from "../../api/client";
import { bytes } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import { Button, Heading, Trouble } from "../../ui/controls";

export function FromSharedFolder({ episode }: { episode: Episode }) {
  const [open, setOpen] = useState(false);
  const [path, setPath] = useState("");
  const params = { path: { episode_id: episode.id } };
  const found = useQuery({
    queryKey: ["shared folder", episode.id, path],
    queryFn: () => got(client.GET("/api/episodes/{episode_id}/shared-folder", { params: { ...params, query: { path } } })),
    retry: false,
    staleTime: 30_000,
  });
  const fetching = useEpisodeChange(episode.id, (file: string) => got(client.POST("/api/episodes/{episode_id}/fetch-shared", { params, body: { path: file } })));
  if (!found.data?.set && !found.isError) return null;
  return (
    <section aria-label="From the shared folder">
      <Heading>From the shared folder</Heading>
      {!open ? (
        <Button onClick={() => setOpen(true)}>
          <Folder size={14} /> Look into it
        </Button>
      ) : (
        <>
          {path && (
            <Button look="quiet" className="!px-1" onClick={() => setPath(path.split("/").slice(0, -1).join("/"))}>
              Up from “{path}”
            </Button>
          )}
          {found.isError && <Trouble>{found.error.message}</Trouble>}
          <ul aria-label="Shared files" className="divide-y divide-line rounded-md border border-line bg-paper empty:hidden">
            {found.data?.entries.map((each) => (
              <li key={each.path} className="flex items-center gap-2 px-2.5 py-1">
                {each.folder ? (
                  <button type="button" className="flex min-w-0 flex-1 items-center gap-1.5 text-left hover:text-blue" onClick={() => setPath(each.path)}>
                    <Folder size={13} aria-hidden /> <span className="truncate">{each.name}</span>
                  </button>
                ) : (
                  <>
                    <span className="min-w-0 flex-1 truncate" title={each.name}>
                      {each.name}
                    </span>
                    <span className="font-mono text-xs text-soft">{bytes(each.size)}</span>
                    <Button look="quiet" className="!px-1" aria-label={`Fetch ${each.name}`} onClick={() => fetching.run(each.path)}>
                      <CloudDownload size={14} />
                    </Button>
                  </>
                )}
              </li>
            ))}
          </ul>
          {found.data?.entries.length === 0 && <p className="text-soft">This folder is empty.</p>}
        </>
      )}
    </section>
  );
}
