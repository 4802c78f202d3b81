/** What one sees while there is nothing yet: one place to drop a recording, to record, or to open the demo. */
import clsx from "clsx";
import { Circle, FilePlus2 } from "lucide-react";
import { client, got } from "../../api/client";
import { keys } from "../../api/queries";
import { useChange } from "../../desk/change";
import { Button } from "../../ui/controls";
import { newShowWithEpisode, titleOf, useFiles, useOpening } from "./begin";

export function Start() {
  const open = useOpening();
  const begin = useChange([keys.shows], newShowWithEpisode);
  const demo = useChange([keys.shows], () => got(client.POST("/api/demo")));
  const { getRootProps, getInputProps, isDragActive, open: choose } = useFiles((files) => begin.run(titleOf(files), (episode) => open(episode, files)));
  const busy = begin.busy || demo.busy;
  return (
    <section
      aria-label="Start"
      className={clsx("my-8 grid place-items-center gap-3 rounded-xl border-2 border-dashed px-6 py-16 text-center", isDragActive ? "border-blue bg-pick" : "border-line")}
      {...getRootProps({ role: "region", tabIndex: undefined })}
    >
      <h1 className="font-serif text-3xl">Drop a recording to start</h1>
      <p className="max-w-md text-soft">Sound or video of speech, as it came from the recorder. Several at once, if they were recorded together. You can name the show and the episode later.</p>
      <input {...getInputProps({ "aria-label": "Recordings to start with" })} />
      <div className="mt-2 flex flex-wrap justify-center gap-2">
        <Button look="strong" disabled={busy} onClick={choose}>
          <FilePlus2 size={14} /> Choose files
        </Button>
        <Button disabled={busy} onClick={() => begin.run("New recording", (episode) => open(episode))}>
          <Circle size={14} /> Record now
        </Button>
        <Button disabled={busy} hint="A made-up show to try everything on" onClick={() => demo.run(undefined, (episode) => open(episode))}>
          Open the demo
        </Button>
      </div>
    </section>
  );
}
