// @vitest-environment jsdom
/** What is told of work that ended. */
import { beforeEach, expect, test } from "vitest";
import type { Job } from "../src/api/client";
import { desk } from "../src/desk/desk";
import { said, tellEnded } from "../src/desk/telling";

const job = (more: Partial<Job>) => ({ kind: "export", state: "done", destination: "", trouble: "", ...more }) as Job;

beforeEach(() => desk().set({ said: null }));

test.each([
  [job({ destination: "Podcast feed" }), "“Podcast feed” is ready"],
  [job({}), "The export is ready"],
  [job({ state: "failed", trouble: "The disk is full." }), "The export: The disk is full."],
  [job({ kind: "fetch address", state: "failed", trouble: "It does not answer." }), "The file: It does not answer."],
  [job({ state: "cancelled" }), null],
  [job({ kind: "settle" }), null],
])("%o", (ended, text) => expect(said(ended)).toBe(text));

test("what can be undone is not covered", () => {
  tellEnded(job({}));
  expect(desk().said?.text).toBe("The export is ready");
  desk().say("Deleted the note", { undo: true });
  tellEnded(job({ destination: "Archive" }));
  expect(desk().said?.text).toBe("Deleted the note");
});

test("a transcript is told by the browser alone", () => {
  tellEnded(job({ kind: "transcribe" }));
  expect(desk().said).toBeNull();
});
