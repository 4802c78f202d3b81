/** Changes besides edits: what they say, how they are undone, and what is read again. */
import { beforeEach, expect, test, vi } from "vitest";
import { queryClient } from "../src/api/client";
import { change, tellDone } from "../src/desk/change";
import { desk } from "../src/desk/desk";

const stale = [["episode", "e"], ["head"]] as const;

beforeEach(() => {
  vi.restoreAllMocks();
  desk().set({ said: null, troubles: [] });
});

test("a change that is made says so, and what it touched is read again", async () => {
  const read = vi.spyOn(queryClient, "invalidateQueries").mockResolvedValue();
  expect(await change(stale, () => Promise.resolve(), { text: "Deleted the note", undo: "step" })).toBe(true);
  expect(read.mock.calls.map(([what]) => what?.queryKey)).toEqual(stale);
  expect(desk().said).toMatchObject({ text: "Deleted the note", undo: true });
});

test("one that is refused says why, and nothing else", async () => {
  expect(await change(stale, () => Promise.reject(new Error("That note is gone.")), { text: "Deleted the note", undo: "step" })).toBe(false);
  expect(desk().said).toBeNull();
  expect(desk().troubles.map((each) => each.text)).toEqual(["That note is gone."]);
});

test("what has no step is taken back by a call of its own, after which everything is read again", async () => {
  const read = vi.spyOn(queryClient, "invalidateQueries").mockResolvedValue();
  const undo = vi.fn(() => Promise.resolve());
  tellDone({ text: "Deleted the show", undo }, stale);
  desk().said?.also?.run();
  await vi.waitFor(() => expect(read).toHaveBeenCalledTimes(2));
  expect(undo).toHaveBeenCalledOnce();
  expect(desk().said?.also?.text).toBe("Undo");
});
