// @vitest-environment jsdom
/** What a window does with the server's notices, over a connection that is made up here. */
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Episode } from "../src/api/client";
import { useNotices } from "../src/api/notices";
import { keys } from "../src/api/queries";
import { head } from "./made";

class Source extends EventTarget {
  static made: Source[] = [];
  onerror: () => void = () => undefined;
  closed = false;

  constructor(readonly address: string) {
    super();
    Source.made.push(this);
  }
  close() {
    this.closed = true;
  }
  tell(kind: string, data: object = {}) {
    this.dispatchEvent(new MessageEvent(kind, { data: JSON.stringify(data) }));
  }
}

let queries: QueryClient;
let asked: ReturnType<typeof vi.fn<(key: unknown) => void>>;
let source: Source;
let leave: () => void;

beforeEach(() => {
  vi.stubGlobal("EventSource", Source);
  vi.useFakeTimers();
  queries = new QueryClient();
  asked = vi.fn();
  vi.spyOn(queries, "invalidateQueries").mockImplementation(async (filters) => asked(filters?.queryKey));
  const drawn = renderHook(() => useNotices("ep", ended), { wrapper: ({ children }) => <QueryClientProvider client={queries}>{children}</QueryClientProvider> });
  leave = drawn.unmount;
  source = Source.made.at(-1) as Source;
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
});

const ended = vi.fn();

test("what happened between the first answer and the first notice is asked for again, once", () => {
  source.tell("hello");
  expect(asked.mock.calls).toEqual([[keys.episode("ep")], [["head"]]]);
  asked.mockReset();
  source.tell("hello");
  expect(asked).not.toHaveBeenCalled();
});

test("after a break everything is asked for again", () => {
  source.tell("hello");
  asked.mockReset();
  source.onerror();
  source.tell("hello");
  expect(asked.mock.calls).toEqual([[[]]]);
});

test("progress is written into what is known; an end is asked for", () => {
  const job = { id: "j", kind: "transcribe", state: "running", progress: 0.1 };
  queries.setQueryData<Episode>(keys.episode("ep"), { jobs: [job] } as unknown as Episode);
  source.tell("job", { episode: "ep", ...job, progress: 0.5 });
  expect(queries.getQueryData<Episode>(keys.episode("ep"))?.jobs).toEqual([{ ...job, progress: 0.5 }]);
  expect(asked).not.toHaveBeenCalled();
  source.tell("job", { episode: "ep", ...job, state: "done" });
  expect(asked.mock.calls).toEqual([[keys.episode("ep")]]);
});

test("what happens in another episode is none of this window's business", () => {
  source.tell("recording", { episode: "other" });
  expect(asked).not.toHaveBeenCalled();
});

test("an edition is asked for when others went on with it, and the episode once for many edits", () => {
  queries.setQueryData(keys.head("e"), head({ revision: 4 }));
  source.tell("edition", { episode: "ep", id: "e", revision: 4 });
  expect(asked).not.toHaveBeenCalled();
  source.tell("edition", { episode: "ep", id: "e", revision: 5 });
  expect(asked.mock.calls).toEqual([[keys.head("e")]]);
  vi.advanceTimersByTime(1_000);
  expect(asked.mock.calls).toEqual([[keys.head("e")], [keys.episode("ep")]]);
});

test("a window that is left listens no more", () => {
  leave();
  expect(source.closed).toBe(true);
});

test("work that ends is handed on, work that goes on is not", () => {
  ended.mockClear();
  source.tell("job", { id: "j", kind: "export", state: "running", episode: "ep" });
  expect(ended).not.toHaveBeenCalled();
  source.tell("job", { id: "j", kind: "export", state: "done", episode: "ep" });
  expect(ended).toHaveBeenCalledExactlyOnceWith(expect.objectContaining({ id: "j", state: "done" }));
});
