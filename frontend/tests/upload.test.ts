/** Sending files to a server that answers as it is told here. */
import { beforeEach, describe, expect, test, vi } from "vitest";
import { client, got, Refusal, UNREACHABLE } from "../src/api/client";
import { desk } from "../src/desk/desk";
import { add, again, dismiss, useUploads } from "../src/stages/gather/upload";

interface Answer {
  /** What the server says once the file is there. */
  status: number;
  body: { id?: string; detail?: string; code?: string; facts?: object };
}

interface Options {
  endpoint: string;
  metadata: Record<string, string>;
  fingerprint: () => Promise<string>;
  onProgress: (sent: number) => void;
  onSuccess: () => void;
  onError: (error: Error) => void;
}

const told = vi.hoisted(() => ({ answers: {} as Record<string, unknown>, sent: [] as { to: string; metadata: Record<string, string>; from: number }[], begun: {} as Record<string, number>, given: [] as string[] }));

/** A sender that sends nothing: it says what it was asked to send, and from which byte on. */
vi.mock("tus-js-client", () => {
  class DetailedError extends Error {}
  class Upload {
    url = "";
    private from = 0;
    constructor(
      private readonly file: File,
      private readonly options: Options,
    ) {}
    async findPreviousUploads() {
      const known = told.begun[await this.options.fingerprint()];
      return known === undefined ? [] : [known];
    }
    resumeFromPreviousUpload(from: number) {
      this.from = from;
    }
    abort() {
      told.given.push(this.file.name);
      return Promise.resolve();
    }
    start() {
      const { endpoint: to, metadata, onProgress, onSuccess, onError } = this.options;
      told.sent.push({ to, metadata, from: this.from });
      onProgress(this.file.size);
      this.url = `http://here/api/uploads/${this.file.name}`;
      const answer = told.answers[this.file.name];
      if (answer === "never") return;
      queueMicrotask(answer ? onSuccess : () => onError(new Error("no connection")));
    }
  }
  return { Upload, DetailedError };
});

const file = (name: string) => new File(["sound"], name, { lastModified: 1 });
const list = () => useUploads.getState().list;
const came = (id: string): Answer => ({ status: 201, body: { id } });
const post = vi.spyOn(client, "POST");
/** What was asked for besides that files were there. */
const asked = () => (post.mock.calls as unknown as [string][]).filter(([path]) => !path.endsWith("/finish"));

const finished = (path: string, more: unknown) => {
  if (!path.endsWith("/finish")) return { data: {}, response: new Response() };
  const { upload_id } = (more as { params: { path: { upload_id: string } } }).params.path;
  const { status, body } = told.answers[upload_id] as Answer;
  return status === 201 ? { data: body, response: new Response() } : { error: body, response: new Response() };
};

beforeEach(() => {
  useUploads.setState({ list: [] });
  Object.assign(told, { answers: {}, sent: [], begun: {}, given: [] });
  post.mockReset().mockImplementation(((path: string, more: unknown) => Promise.resolve(finished(path, more))) as never);
});

const answers = (given: Record<string, Answer | "never">) => (told.answers = given);

const settled = (left: number) => vi.waitFor(() => expect([list().length, list().filter((each) => each.state !== "refused").length]).toEqual([left, 0]));

describe("files that are added", () => {
  test("are sent one after the other; one by itself is laid on the page at once", async () => {
    answers({ "a.wav": came("1") });
    add("ep", [file("a.wav")]);
    await settled(0);
    expect(told.sent).toEqual([{ to: "/api/episodes/ep/uploads", metadata: { filename: "a.wav", placed: "true" }, from: 0 }]);
    expect(asked()).toEqual([]);
  });

  test("together are proposed as a session once all have come", async () => {
    answers({ "a.wav": came("1"), "b & c.wav": came("2") });
    add("ep", [file("a.wav"), file("b & c.wav")]);
    await settled(0);
    expect(told.sent[1]?.metadata).toEqual({ filename: "b & c.wav", placed: "false" });
    await vi.waitFor(() => expect(asked()).toHaveLength(1));
    expect(post).toHaveBeenCalledWith("/api/episodes/{episode_id}/sessions", {
      params: { path: { episode_id: "ep" } },
      body: { recordings: ["1", "2"] },
    });
  });

  test("of which only one was taken lay that one on the page, and keep what was said of the other", async () => {
    answers({ "a.wav": came("1"), "b.txt": { status: 422, body: { detail: "There is no sound in it.", code: "no-media" } } });
    add("ep", [file("b.txt"), file("a.wav")]);
    await settled(1);
    expect(list()[0]).toMatchObject({ state: "refused", trouble: "There is no sound in it." });
    await vi.waitFor(() => expect(post).toHaveBeenCalledWith("/api/recordings/{recording_id}/place", { params: { path: { recording_id: "1" } } }));
    dismiss(list()[0]?.id ?? 0);
    expect(list()).toEqual([]);
  });

  test("of which none was taken ask for nothing more", async () => {
    answers({ "a.txt": { status: 422, body: { detail: "no" } }, "b.txt": { status: 422, body: { detail: "no" } } });
    add("ep", [file("a.txt"), file("b.txt")]);
    await settled(2);
    expect(asked()).toEqual([]);
  });
});

test("a file that is here already is told with the recording that has it", async () => {
  answers({ "a.wav": { status: 409, body: { detail: "It is here already.", code: "already-here", facts: { recording: "7" } } } });
  add("ep", [file("a.wav")]);
  await settled(1);
  expect(list()[0]).toMatchObject({ twin: "7", trouble: "It is here already." });
});

test("when nobody answers, the file stays, and what had come of it is not sent again", async () => {
  add("ep", [file("a.wav")]);
  await settled(1);
  expect(list()[0]?.trouble).toBe(UNREACHABLE);
  answers({ "a.wav": came("1") });
  told.begun["jaskel ep true a.wav 5 1"] = 3;
  again(list()[0]?.id ?? 0);
  await settled(0);
  expect(told.sent.map(({ from }) => from)).toEqual([0, 3]);
});

test("one that is given up while it is sent is thrown away by the server, too, and the next one is sent", async () => {
  answers({ "a.wav": "never", "b.wav": came("2") });
  add("ep", [file("a.wav")]);
  add("ep", [file("b.wav")]);
  await vi.waitFor(() => expect(list()[0]?.state).toBe("sending"));
  await vi.waitFor(() => expect(told.sent).toHaveLength(1));
  dismiss(list()[0]?.id ?? 0);
  await settled(0);
  expect(told.given).toEqual(["a.wav"]);
});

test("each goes into the episode it was added to, though another is open by then", async () => {
  answers({ "a.wav": came("1"), "b.wav": came("2") });
  add("one", [file("a.wav")]);
  add("other", [file("b.wav")]);
  await settled(0);
  expect(told.sent.map(({ to }) => to)).toEqual(["/api/episodes/one/uploads", "/api/episodes/other/uploads"]);
});

test("one that is given up while it waits does not keep the others from being a session", async () => {
  answers({ "a.wav": came("1"), "b.wav": came("2") });
  add("ep", [file("a.wav"), file("b.wav"), file("c.wav")]);
  dismiss(list()[2]?.id ?? 0);
  await settled(0);
  expect(post).toHaveBeenCalledWith("/api/episodes/{episode_id}/sessions", expect.objectContaining({ body: { recordings: ["1", "2"] } }));
});

test("a session that is refused is said", async () => {
  answers({ "a.wav": came("1"), "b.wav": came("2") });
  const apart = { error: { detail: "They do not overlap.", code: "apart" }, response: new Response() };
  post.mockImplementation(((path: string, more: unknown) => Promise.resolve(path.endsWith("/finish") ? finished(path, more) : apart)) as never);
  add("ep", [file("a.wav"), file("b.wav")]);
  await vi.waitFor(() => expect(desk().troubles).toMatchObject([{ text: "They do not overlap." }]));
});

describe("an answer", () => {
  test("is its body", async () => expect(await got(Promise.resolve({ data: 5, response: new Response() }))).toBe(5));

  test("that refuses is thrown in the server's words", async () => {
    const refused = got(Promise.resolve({ error: { detail: "Nothing is struck there.", code: "nothing-changed" }, response: new Response() }));
    await expect(refused).rejects.toMatchObject({ message: "Nothing is struck there.", problem: { code: "nothing-changed" } });
    await expect(refused).rejects.toBeInstanceOf(Refusal);
  });

  test("that never comes says so, and that nothing is lost", async () => {
    await expect(got(Promise.reject(new TypeError("Failed to fetch")))).rejects.toThrow(UNREACHABLE);
  });
});

test("the browser asks before a tab is closed that still sends", () => {
  const asked = { add: vi.fn(), remove: vi.fn() };
  vi.stubGlobal("addEventListener", asked.add);
  vi.stubGlobal("removeEventListener", asked.remove);
  const upload = { id: 99, file: {} as File, sent: 0, trouble: "", group: { episode: "ep", size: 1, settled: false, recordings: [] } };
  useUploads.setState({ list: [{ ...upload, state: "sending" }] });
  expect(asked.add).toHaveBeenCalledWith("beforeunload", expect.any(Function));
  useUploads.setState({ list: [{ ...upload, state: "refused" }] });
  expect(asked.remove).toHaveBeenCalledWith("beforeunload", expect.any(Function));
  useUploads.setState({ list: [] });
});
