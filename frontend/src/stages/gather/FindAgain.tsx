import { useRef, useState } from "react";
import { asItIs, client, got, queryClient, type Episode, type Recording } from "../../api/client";
import { keys } from "../../api/queries";
import { Button, Trouble } from "../../ui/controls";

/** The file of a recording has gone missing: choose it again. It is told by its content, whatever it is called. */
export function FindAgain({ episode, recording }: { episode: Episode; recording: Recording }) {
  const input = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState("");
  const [sending, setSending] = useState(false);
  const send = async (file: File | undefined) => {
    if (!file) return;
    setSending(true);
    setTrouble("");
    try {
      await got(client.POST("/api/recordings/{recording_id}/original", { params: { path: { recording_id: recording.id } }, ...asItIs(file) }));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
    setSending(false);
    void queryClient.invalidateQueries({ queryKey: keys.episode(episode.id) });
  };
  return (
    <div className="space-y-1.5">
      <Trouble>{trouble || "Its file is not in the vault any more, or was changed there. Words and cuts are all here; choose the file to hear and export it."}</Trouble>
      <input ref={input} type="file" hidden aria-label={`File of ${recording.name}`} onChange={(event) => void send(event.target.files?.[0])} />
      <Button disabled={sending} onClick={() => input.current?.click()}>
        {sending ? "Looking at it …" : "Find it again"}
      </Button>
    </div>
  );
}
