/** Exports that stand together, and the order of the last listen. */
import { expect, test } from "vitest";
import type { Episode } from "../src/api/client";
import { together } from "../src/stages/export/destinations";
import { nextOf, type Hear } from "../src/stages/export/lastListen";

type Export = Episode["exports"][number];
const made = (id: string, job_id: string, created: string, destination = "") => ({ id, job_id, created, destination }) as Export;

test("files of one job stand together, the newest first, the file itself before what goes along", () => {
  const found = together([made("a-2", "a", "1", "Feed"), made("b", "b", "2"), made("a", "a", "1", "Feed"), made("a-10", "a", "1", "Feed"), made("a-1", "a", "1", "Feed")]);
  expect(found.map((each) => [each.name, each.files.map((file) => file.id)])).toEqual([
    ["", ["b"]],
    ["Feed", ["a", "a-1", "a-2", "a-10"]],
  ]);
});

const places = (passed: string) => [...passed].map((each, index) => ({ key: `k${index}`, passed: each === "x" }) as Hear);

test.each([
  ["---", null, "k0"],
  ["---", "k0", "k1"],
  ["---", "k2", "k0"],
  ["-xx", "k1", "k0"],
  ["x-x", "k1", undefined],
  ["xxx", "k0", undefined],
  ["", null, undefined],
])("of %s after %s comes %s", (passed, from, next) => expect(nextOf(places(passed), from)?.key).toBe(next));
