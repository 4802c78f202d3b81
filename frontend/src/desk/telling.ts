/** Notices of this browser: shown where somebody wants them and looks at something else. */
import type { Job } from "../api/client";
import { desk } from "./desk";

const KEY = "jaskel.notices";

export const browserTells = () => localStorage.getItem(KEY) === "on" && "Notification" in window && Notification.permission === "granted";

/** Turns them on (the browser asks for leave) or off; gives whether they are on. */
export async function letBrowserTell(on: boolean): Promise<boolean> {
  if (!on) {
    localStorage.removeItem(KEY);
    return false;
  }
  if (!("Notification" in window)) throw new Error("This browser has no notices of its own.");
  if ((await Notification.requestPermission()) !== "granted") throw new Error("This browser does not let pages show notices. Allow it beside the address.");
  localStorage.setItem(KEY, "on");
  return true;
}

/** Shows one, unless the page is looked at anyway. */
export function browserSays(text: string) {
  if (browserTells() && document.hidden) new Notification("Jaskel", { body: text, tag: text });
}

const DONE: Readonly<Record<string, string>> = { export: "The export is ready", transcribe: "The transcript is there", fetch: "The take has arrived", "fetch address": "The file has arrived", process: "The sound is processed", publish: "The episode is published", withdraw: "The episode is withdrawn" };

/** What is said of a job that ended; nothing of those that run in the background. */
export function said({ kind, state, destination, trouble }: Pick<Job, "kind" | "state" | "destination" | "trouble">): string | null {
  const done = DONE[kind];
  if (!done) return null;
  const what = destination && kind === "export" ? `“${destination}” is ready` : done;
  if (state === "failed") return `${what.replace(/ (is|has) .*/, "")}: ${trouble}`;
  return state === "done" ? what : null;
}

const SAID_HERE = new Set(["export", "publish", "withdraw"]);

/** Tells of a job that ended: in a notice of the browser, and on the page unless something there can still be undone. */
export function tellEnded(job: Job) {
  const text = said(job);
  if (!text) return;
  browserSays(text);
  const now = desk().said;
  if (job.state === "done" && SAID_HERE.has(job.kind) && !now?.undo && !now?.also) desk().say(text);
}
