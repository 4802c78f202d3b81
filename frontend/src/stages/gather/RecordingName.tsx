import { Pencil, Trash2 } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got, type Episode, type Recording } from "../../api/client";
import { clock } from "../../api/time";
import { useEpisodeChange } from "../../desk/change";
import { Button } from "../../ui/controls";
import { TextField } from "../../ui/fields";

interface RecordingNameProps {
  episode: Episode;
  recording: Recording;
  /** Left out where it cannot be removed by itself. */
  onRemove: (() => void) | undefined;
}

/** The name of a recording, its length, and what can be done with it as a whole. */
export function RecordingName({ episode, recording, onRemove }: RecordingNameProps) {
  const [naming, setNaming] = useState(false);
  const rename = useEpisodeChange(episode.id, (name: string) =>
    got(client.PATCH("/api/recordings/{recording_id}", { params: { path: { recording_id: recording.id } }, body: { name, language: null, kind: null, care: null, parted: null } })),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    const name = String(new FormData(event.currentTarget).get("name")).trim();
    setNaming(false);
    if (name && name !== recording.name) rename.run(name);
  };
  if (naming)
    return (
      <form onSubmit={submit} className="flex gap-1.5">
        <TextField
          label={`Name of ${recording.name}`}
          name="name"
          autoFocus
          defaultValue={recording.name}
          maxLength={200}
          onKeyDown={(event) => event.key === "Escape" && setNaming(false)}
          className="flex-1"
        />
        <Button type="submit">Name it</Button>
      </form>
    );
  return (
    <div className="group flex items-center gap-1">
      <b className="min-w-0 flex-1 truncate font-semibold" title={recording.name}>
        {recording.name}
      </b>
      <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Rename ${recording.name}`} onClick={() => setNaming(true)}>
        <Pencil size={13} />
      </Button>
      {onRemove && (
        <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Remove ${recording.name}`} onClick={onRemove}>
          <Trash2 size={13} />
        </Button>
      )}
      <span className="font-mono text-xs text-soft">{recording.length > 0 && clock(recording.length)}</span>
    </div>
  );
}
