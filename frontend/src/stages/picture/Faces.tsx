/** Faces, which stay in the picture in every shape: whether they have been looked for. */
import { client, got, type Episode, type Head } from "../../api/client";
import { useEpisodeChange, useWork } from "../../desk/change";
import { PictureShape } from "../../page/PictureShape";
import { Button, Heading } from "../../ui/controls";
import { Line } from "../../ui/fields";
import { Working } from "../../ui/Working";

interface FacesProps {
  episode: Episode;
  head: Head;
  unlooked: number;
}

export function Faces({ episode, head, unlooked }: FacesProps) {
  const work = useWork(episode.id);
  const look = useEpisodeChange(episode.id, () => got(client.POST("/api/editions/{edition_id}/faces", { params: { path: { edition_id: head.id } } })));
  const jobs = episode.jobs.filter((job) => job.kind === "faces" && (job.state === "running" || job.state === "queued"));
  return (
    <>
      <Heading>Shape</Heading>
      <Line label="shape of the picture">
        <PictureShape edition={head.id} revision={head.revision} shape={head.shape} label="Shape of the picture" />
      </Line>
      {jobs.map((job) => (
        <div key={job.id} className="mt-1.5">
          <Working job={job} total={job.total} verb="Looking for faces" onStop={work.stop} />
        </div>
      ))}
      {jobs.length === 0 && (unlooked ? (
        <div className="mt-1.5 space-y-1.5">
          <p className="leading-snug text-soft">Faces have not been looked for yet, so the middle of the picture is seen.</p>
          <Button onClick={() => look.run(undefined)}>Look for faces</Button>
        </div>
      ) : (
        <p className="mt-1 leading-snug text-soft">Faces stay in the picture in every shape.</p>
      ))}
    </>
  );
}
