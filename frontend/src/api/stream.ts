/** The server's notices as they come over one connection. */
export interface Notice {
  /** What happened; `lost` and `hello` tell of the connection itself. */
  kind: string;
  episode: string;
  facts: Record<string, unknown>;
}

const KINDS = ["hello", "job", "recording", "session", "voice", "export", "findings", "transcript", "edition", "style", "captions", "heard", "published"] as const;

/** Hands on all notices, of all episodes, until the returned function is called. */
export function follow(hand: (notice: Notice) => void): () => void {
  const source = new EventSource("/api/notices?episode=");
  for (const kind of KINDS) {
    source.addEventListener(kind, (event) => {
      const { episode = "", ...facts } = JSON.parse((event as MessageEvent<string>).data) as Record<string, unknown> & { episode?: string };
      hand({ kind, episode, facts });
    });
  }
  source.onerror = () => hand({ kind: "lost", episode: "", facts: {} });
  return () => source.close();
}

/** The same, over the connection that all windows of this browser share. */
export function followShared(hand: (notice: Notice) => void): () => void {
  if (!("SharedWorker" in globalThis)) return follow(hand);
  const { port } = new SharedWorker(new URL("./notices.worker.ts", import.meta.url), { type: "module", name: "notices" });
  port.onmessage = (event: MessageEvent<Notice>) => hand(event.data);
  return () => {
    port.postMessage("gone");
    port.close();
  };
}
