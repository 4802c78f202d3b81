/** Sending files, one after the other, as they are; what is refused is kept to be shown. */
import { create } from "zustand";
import { client, got, queryClient, UNREACHABLE } from "../../api/client";
import { keys } from "../../api/queries";
import { problemOf, sendFile } from "../../api/sending";
import { failed } from "../../desk/desk";

export interface Upload {
  id: number;
  file: File;
  sent: number;
  state: "waiting" | "sending" | "refused";
  trouble: string;
  /** The recording that has the same file already. */
  twin?: string;
  group: Group;
}

/** Files that were added together: when all are there, it is proposed that they are a session. */
interface Group {
  episode: string;
  size: number;
  /** Whether it has been said what becomes of them. */
  settled: boolean;
  recordings: string[];
}

interface Uploads {
  list: Upload[];
}

export const useUploads = create<Uploads>(() => ({ list: [] }));

/** A tab that is closed while it sends breaks the file off until it is chosen again: the browser asks first. */
const ask = (event: BeforeUnloadEvent) => event.preventDefault();

useUploads.subscribe(({ list }) => {
  const sending = list.some((each) => each.state !== "refused");
  if (sending) globalThis.addEventListener?.("beforeunload", ask);
  else globalThis.removeEventListener?.("beforeunload", ask);
});

let count = 0;
/** How to give up what is being sent. */
const running = new Map<number, () => void>();

const change = (id: number, what: Partial<Upload>) =>
  useUploads.setState(({ list }) => ({ list: list.map((each) => (each.id === id ? { ...each, ...what } : each)) }));

export function dismiss(id: number) {
  const dismissed = useUploads.getState().list.find((each) => each.id === id);
  running.get(id)?.();
  useUploads.setState(({ list }) => ({ list: list.filter((each) => each.id !== id) }));
  if (dismissed?.state === "waiting") void settle(dismissed.group);
}

export function add(episodeId: string, files: readonly File[]) {
  const group: Group = { episode: episodeId, size: files.length, settled: false, recordings: [] };
  const added = files.map<Upload>((file) => ({ id: ++count, file, sent: 0, state: "waiting", trouble: "", group }));
  useUploads.setState(({ list }) => ({ list: [...list, ...added] }));
  if (!sending) void sendAll();
}

let sending = false;

async function sendAll(): Promise<void> {
  sending = true;
  for (let upload = waiting(); upload; upload = waiting()) {
    await send(upload);
    await settle(upload.group);
  }
  sending = false;
}

const waiting = () => useUploads.getState().list.find((each) => each.state === "waiting");

/** Once all files of a group have come or been refused, say what becomes of them. */
async function settle(group: Group): Promise<void> {
  const [first, ...others] = group.recordings;
  const { episode } = group;
  const coming = useUploads.getState().list.some((each) => each.group === group && each.state !== "refused");
  if (coming || group.settled || group.size === 1 || !first) return;
  group.settled = true;
  try {
    if (others.length) {
      const params = { path: { episode_id: episode } };
      await got(client.POST("/api/episodes/{episode_id}/sessions", { params, body: { recordings: group.recordings } }));
    } else {
      await got(client.POST("/api/recordings/{recording_id}/place", { params: { path: { recording_id: first } } }));
    }
  } catch (error) {
    failed(error);
  }
  void queryClient.invalidateQueries({ queryKey: keys.episode(episode) });
}

async function send(upload: Upload): Promise<void> {
  const { episode, size } = upload.group;
  change(upload.id, { state: "sending", trouble: "" });
  try {
    const { sent, giveUp } = sendFile({
      file: upload.file,
      endpoint: `/api/episodes/${episode}/uploads`,
      metadata: { placed: String(size === 1) },
      purpose: `${episode} ${size === 1}`,
      onProgress: (bytes) => change(upload.id, { sent: bytes }),
    });
    running.set(upload.id, giveUp);
    const id = await sent;
    running.delete(upload.id);
    if (!id) return;
    const recording = await got(client.POST("/api/uploads/{upload_id}/finish", { params: { path: { upload_id: id } } }));
    upload.group.recordings.push(recording.id);
    dismiss(upload.id);
  } catch (error) {
    const { detail, code, facts } = problemOf(error);
    const twin = code === "already-here" ? facts?.recording : undefined;
    change(upload.id, { state: "refused", trouble: detail ?? UNREACHABLE, ...(twin ? { twin } : {}) });
  } finally {
    running.delete(upload.id);
    void queryClient.invalidateQueries({ queryKey: keys.episode(episode) });
  }
}

/** Send once more what could not be sent: what has come of it already is not sent again. */
export function again(id: number) {
  change(id, { state: "waiting", trouble: "" });
  if (!sending) void sendAll();
}

/** Use a recording again that has the same file. */
export async function reuse(upload: Upload) {
  const { episode } = upload.group;
  if (!upload.twin) return;
  try {
    await got(
      client.POST("/api/episodes/{episode_id}/recordings/reuse", {
        params: { path: { episode_id: episode } },
        body: { recording_id: upload.twin, transcribe: true },
      }),
    );
    dismiss(upload.id);
  } catch (error) {
    change(upload.id, { trouble: error instanceof Error ? error.message : String(error) });
  }
  void queryClient.invalidateQueries({ queryKey: keys.episode(episode) });
}
