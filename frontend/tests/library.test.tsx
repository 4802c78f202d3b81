// @vitest-environment jsdom
/** The library: what waits in an episode, and beginning one with files. */
import { QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { Tooltip } from "radix-ui";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { client, queryClient, type EpisodeBrief } from "../src/api/client";
import { titleOf } from "../src/app/library/begin";
import { told } from "../src/app/library/EpisodeLine";
import { Start } from "../src/app/library/Start";
import { desk } from "../src/desk/desk";

const receive = vi.hoisted(() => vi.fn());
vi.mock("../src/stages", () => ({ STAGES: [{ id: "first" }, { id: "second", receive }] }));

const file = (name: string) => new File(["sound"], name);
const answer = (data: unknown) => Promise.resolve({ data, response: new Response() }) as never;

beforeEach(() => {
  desk().set({ troubles: [] });
  receive.mockReset();
  window.history.replaceState(null, "", "/");
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

test.each([
  ["mending-a-sail.mp4", "Mending a sail"],
  ["2026-11-27 interview_final.wav", "2026-11-27 interview final"],
  ["élan vital.flac", "Élan vital"],
  ["v1.2 rough.wav", "V1.2 rough"],
  [".wav", "New episode"],
])("a file %o makes the title %o", (name, title) => expect(titleOf([file(name)])).toBe(title));

const brief = (state: EpisodeBrief["state"], waiting: Partial<EpisodeBrief["waiting"]> = {}) =>
  told({ state, waiting: { preparing: 0, failed: 0, to_transcribe: 0, to_place: 0, ...waiting } } as EpisodeBrief);

test("what waits in an episode is said in words", () => {
  expect(brief("transcribed")).toBe("transcribed");
  expect(brief("gathered", { to_transcribe: 2 })).toBe("2 recordings to transcribe");
  expect(brief("transcribed", { failed: 1, to_place: 1 })).toBe("transcribed · 1 recording failed · 1 session to confirm");
});

const start = () =>
  render(
    <QueryClientProvider client={queryClient}>
      <Tooltip.Provider>
        <Start />
      </Tooltip.Provider>
    </QueryClientProvider>,
  );

test("files make a show and an episode of their name, which is opened and takes them", async () => {
  const post = vi.spyOn(client, "POST").mockReturnValueOnce(answer({ id: "show" })).mockReturnValueOnce(answer({ id: "ep" }));
  start();
  const files = [file("dry-hull.wav"), file("guest.wav")];
  await userEvent.upload(screen.getByLabelText("Recordings to start with"), files);
  await waitFor(() => expect(window.location.pathname).toBe("/episodes/ep"));
  expect((post.mock.calls as unknown as [string, { body: unknown }][]).map(([path, { body }]) => [path, body])).toEqual([
    ["/api/shows", { name: "Dry hull", about: "" }],
    ["/api/shows/{show_id}/episodes", { title: "Dry hull" }],
  ]);
  expect(receive).toHaveBeenCalledWith({ id: "ep" }, files);
});

test("what goes wrong is said, and nothing is opened", async () => {
  vi.spyOn(client, "POST").mockReturnValue(Promise.resolve({ error: { detail: "The disk is full.", code: "disk-full" }, response: new Response() }) as never);
  start();
  await userEvent.click(screen.getByRole("button", { name: "Record now" }));
  await waitFor(() => expect(desk().troubles).toMatchObject([{ text: "The disk is full." }]));
  expect(window.location.pathname).toBe("/");
});
