// @vitest-environment jsdom
/** How far work has come is told by what it counts, and by the time left as soon as that is known. */
import { cleanup, render, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import type { Job } from "../src/api/client";
import { RATE } from "../src/api/time";
import { Working } from "../src/ui/Working";

afterEach(cleanup);

const show = (more: Partial<Job>, counts?: "time" | "bytes" | "work") => {
  const job = { id: "j", state: "running", done: 30 * RATE, total: 120 * RATE, left: null, cancel: false, trouble: "", ...more } as Job;
  render(<Working job={job} total={job.total} verb="Writing" onStop={vi.fn()} {...(counts && { counts })} />);
};

test("by time", () => {
  show({});
  screen.getByText("0:30 of 2:00");
});

test("by its share where it counts work of different kinds, never more than all of it", () => {
  show({}, "work");
  screen.getByText("25 %");
  cleanup();
  show({ done: 130 * RATE }, "work");
  screen.getByText("100 %");
});

test("by bytes", () => {
  show({ done: 1_000_000, total: 4_000_000 }, "bytes");
  screen.getByText("1.0 MB of 4.0 MB");
});

test("by the time left", () => {
  show({ left: 42 }, "work");
  screen.getByText("about 40 s left");
  expect(screen.queryByText("25 %")).toBeNull();
});
