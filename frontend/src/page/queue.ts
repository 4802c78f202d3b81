/** Changes of an edition on their way to the server: one after the other, and shown before they have been answered. */
import type { QueryClient } from "@tanstack/react-query";
import type { Head } from "../api/client";
import { keys } from "../api/queries";

export interface Change {
  /** What it changes that can be shown at once. */
  paint: (head: Head) => Partial<Head>;
  send: (revision: number) => Promise<Head>;
  done: (before: Head, after: Head) => void;
  refused: (error: unknown) => void;
}

export class EditQueue {
  /** What the server has not answered yet, the oldest first. */
  private waiting: Change[] = [];
  private sending = false;

  constructor(
    private readonly queries: QueryClient,
    private readonly edition: string,
  ) {}

  private get known() {
    return this.queries.getQueryData<Head>(keys.head(this.edition));
  }

  add(change: Change) {
    const { known } = this;
    if (known) this.show({ ...known, ...change.paint(known) });
    this.waiting.push(change);
    if (!this.sending) void this.work();
  }

  private show(head: Head) {
    this.queries.setQueryData(keys.head(this.edition), head);
  }

  /** What the server knows, and over it what waits: an answer does not take back what was done since it was asked. */
  private answered(head: Head) {
    this.show(this.waiting.reduce((shown, each) => ({ ...shown, ...each.paint(shown) }), head));
  }

  /** Each is made on the revision that the one before led to. */
  private async work() {
    this.sending = true;
    for (let change = this.waiting[0]; change; change = this.waiting[0]) {
      const before = this.known;
      try {
        if (before) {
          const after = await change.send(before.revision);
          this.waiting.shift();
          this.answered(after);
          change.done(before, after);
          continue;
        }
      } catch (error) {
        change.refused(error);
      }
      this.waiting.shift();
      await this.queries.invalidateQueries({ queryKey: keys.head(this.edition) });
      if (this.known) this.answered(this.known);
    }
    this.sending = false;
  }
}
