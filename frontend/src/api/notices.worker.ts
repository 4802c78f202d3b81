/**
 * One connection to the server's notices for all windows of this browser: a browser allows six to a server, and windows would
 * otherwise use them up and wait for one another.
 */
import { follow, type Notice } from "./stream";

const ports = new Set<MessagePort>();

let open = false;

follow((notice: Notice) => {
  if (notice.kind === "hello") open = true;
  if (notice.kind === "lost") open = false;
  for (const port of ports) port.postMessage(notice);
});

(self as unknown as { onconnect: (event: MessageEvent) => void }).onconnect = ({ ports: [port] }) => {
  if (!port) return;
  ports.add(port);
  // A window that comes later is told as well from when on it misses nothing.
  if (open) port.postMessage({ kind: "hello", episode: "", facts: {} } satisfies Notice);
  // A page says when it needs them no more; a window that was closed costs no more than messages that nobody reads.
  port.onmessage = () => ports.delete(port);
};
