/** Sending files to a server that answers as it is told here. */
import { beforeEach, describe, expect, test, vi } from "vitest";
import { client, got, Refusal, UNREACHABLE } from "../src/api/client";
import { desk } from "../src/desk/desk";
import { add, dismiss, useUploads } from "../src/stages/gather/upload";

interface Answer {
  status: number;
  body: unknown;
}

let answers: Record<string, Answer>;
let sent: string[];

class Request {
  upload: { onprogress?: (event: { loaded: number }) => void } = {};
  onloadend: () => void = () => undefined;
  status = 0;
  responseText = "";
  private name = "";

  open(_: string, address: string) {
    this.name = new URL(address, "http://here").searchParams.get("name") ?? "";
    sent.push(address);
  }
  setRequestHeader() {}
  abort() {
    this.onloadend();
  }
  send(file: File) {
    this.upload.onprogress?.({ loaded: file.size });
    const { status, body } = answers[this.name] ?? { status: 0, body: "" };
    this.status = status;
    this.responseText = typeof body === "string" ? body : JSON.stringify(body);
    queueMicrotask(() => this.onloadend());
  }
}

const file = (name: string) => new File(["sound"], name);
const list = () => useUploads.getState().list;
const came = (id: string): Answer => ({ status: 201, body: { id } });
const post = vi.spyOn(client, "POST");

beforeEach(() => {
  vi.stubGlobal("XMLHttpRequest", Request);
  useUploads.setState({ list: [] });
  [answers, sent] = [{}, []];
  post.mockReset().mockResolvedValue({ data: {}, response: new Response() } as never);
});

const settled = (left: number) => vi.waitFor(() => expect([list().length, list().filter((each) => each.state !== "refused").length]).toEqual([left, 0]));

describe("files that are added", () => {
  test("are sent one after the other; one by itself is laid on the page at once", async () => {
    answers = { "a.wav": came("1") };
    add("ep", [file("a.wav")]);
    await settled(0);
    expect(sent).toEqual(["/api/episodes/ep/recordings?name=a.wav&placed=true"]);
    expect(post).not.toHaveBeenCalled();
  });

  test("together are proposed as a session once all have come", async () => {
    answers = { "a.wav": came("1"), "b & c.wav": came("2") };
    add("ep", [file("a.wav"), file("b & c.wav")]);
    await settled(0);
    expect(sent[1]).toBe("/api/episodes/ep/recordings?name=b%20%26%20c.wav&placed=false");
    await vi.waitFor(() => expect(post).toHaveBeenCalledOnce());
    expect(post).toHaveBeenCalledWith("/api/episodes/{episode_id}/sessions", {
      params: { path: { episode_id: "ep" } },
      body: { recordings: ["1", "2"] },
    });
  });

  test("of which only one was taken lay that one on the page, and keep what was said of the other", async () => {
    answers = { "a.wav": came("1"), "b.txt": { status: 422, body: { detail: "There is no sound in it.", code: "no-media" } } };
    add("ep", [file("b.txt"), file("a.wav")]);
    await settled(1);
    expect(list()[0]).toMatchObject({ state: "refused", trouble: "There is no sound in it." });
    await vi.waitFor(() => expect(post).toHaveBeenCalledWith("/api/recordings/{recording_id}/place", { params: { path: { recording_id: "1" } } }));
    dismiss(list()[0]?.id ?? 0);
    expect(list()).toEqual([]);
  });

  test("of which none was taken ask for nothing more", async () => {
    answers = { "a.txt": { status: 422, body: { detail: "no" } }, "b.txt": { status: 422, body: { detail: "no" } } };
    add("ep", [file("a.txt"), file("b.txt")]);
    await settled(2);
    expect(post).not.toHaveBeenCalled();
  });
});

test("a file that is here already is told with the recording that has it", async () => {
  answers = { "a.wav": { status: 409, body: { detail: "It is here already.", code: "already-here", facts: { recording: "7" } } } };
  add("ep", [file("a.wav")]);
  await settled(1);
  expect(list()[0]).toMatchObject({ twin: "7", trouble: "It is here already." });
});

test.each([
  ["nobody answers", { status: 0, body: "" }],
  ["something else answers", { status: 502, body: "<html>" }],
])("when %s, the file stays and it is said that Jaskel is not reached", async (_, answer) => {
  answers = { "a.wav": answer };
  add("ep", [file("a.wav")]);
  await settled(1);
  expect(list()[0]?.trouble).toBe(UNREACHABLE);
});

test("each goes into the episode it was added to, though another is open by then", async () => {
  answers = { "a.wav": came("1"), "b.wav": came("2") };
  add("one", [file("a.wav")]);
  add("other", [file("b.wav")]);
  await settled(0);
  expect(sent).toEqual(["/api/episodes/one/recordings?name=a.wav&placed=true", "/api/episodes/other/recordings?name=b.wav&placed=true"]);
});

test("one that is given up while it waits does not keep the others from being a session", async () => {
  answers = { "a.wav": came("1"), "b.wav": came("2") };
  add("ep", [file("a.wav"), file("b.wav"), file("c.wav")]);
  dismiss(list()[2]?.id ?? 0);
  await settled(0);
  expect(post).toHaveBeenCalledWith("/api/episodes/{episode_id}/sessions", expect.objectContaining({ body: { recordings: ["1", "2"] } }));
});

test("a session that is refused is said", async () => {
  answers = { "a.wav": came("1"), "b.wav": came("2") };
  post.mockResolvedValue({ error: { detail: "They do not overlap.", code: "apart" }, response: new Response() } as never);
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
