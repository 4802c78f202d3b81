/** A timeline that was made elsewhere of the same media comes in as an edition. */
import { FileInput } from "lucide-react";
import { useRef } from "react";
import { asItIs, client, got, type Episode } from "../api/client";
import { useEpisodeChange } from "../desk/change";
import { desk } from "../desk/desk";
import { Button } from "../ui/controls";

export function FromTimeline({ episode, open }: { episode: Episode; open: (edition: string) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const bring = useEpisodeChange(episode.id, (file: File) => got(client.POST("/api/episodes/{episode_id}/timelines", { params: { path: { episode_id: episode.id }, query: { name: file.name.replace(/\.otio$/i, "").slice(0, 80) } }, ...asItIs(file) })));
  const take = (file: File | undefined) =>
    file &&
    bring.run(file, ({ edition, left_out }) => {
      open(edition);
      desk().say(left_out.length ? `Not in this edition: ${left_out.join("; ")}` : "The timeline is an edition now");
    });
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        accept=".otio,application/json"
        aria-label="Timeline to bring in"
        onChange={(event) => {
          take(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <Button hint="OpenTimelineIO (.otio), made of the recordings of this episode" why={bring.busy && "Being read"} onClick={() => input.current?.click()}>
        <FileInput size={14} /> From a timeline …
      </Button>
    </>
  );
}
