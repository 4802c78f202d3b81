import { useRef, useState } from "react";
import { queryClient, UNREACHABLE, type Episode, type Recording } from "../../api/client";
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
    const answer = await fetch(`/api/recordings/${recording.id}/original`, { method: "POST", body: file }).catch(() => null);
    if (!answer?.ok) setTrouble(answer ? ((await answer.json()) as { detail: string }).detail : UNREACHABLE);
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
