/** Edits on their way to a server that answers when it is told to. */
import { QueryClient } from "@tanstack/react-query";
import { beforeEach, expect, test, vi } from "vitest";
import type { Head } from "../src/api/client";
import { keys } from "../src/api/queries";
import { EditQueue, type Change } from "../src/page/queue";
import { head } from "./made";

let queries: QueryClient;
let queue: EditQueue;
let asked: { revision: number; answer: (after: Head) => void; refuse: (error: Error) => void }[];

const shown = () => queries.getQueryData<Head>(keys.head("e"));

beforeEach(() => {
  queries = new QueryClient();
  queue = new EditQueue(queries, "e");
  asked = [];
  queries.setQueryData(keys.head("e"), head({ revision: 1, struck: [] }));
});

function strike(begin: number, more: Partial<Change> = {}) {
  const change: Change = {
    paint: ({ struck }) => ({ struck: [...struck, [begin, begin + 10]] }),
    send: (revision) => new Promise((answer, refuse) => asked.push({ revision, answer, refuse })),
    done: vi.fn(),
    refused: vi.fn(),
    ...more,
  };
  queue.add(change);
  return change;
}

const sent = (count: number) => vi.waitFor(() => expect(asked).toHaveLength(count));

test("each is painted at once, and sent on the revision that the one before led to", async () => {
  strike(0);
  strike(20);
  expect(shown()?.struck).toEqual([[0, 10], [20, 30]]);
  expect(asked.map((each) => each.revision)).toEqual([1]);
  asked[0]?.answer(head({ revision: 2, struck: [[0, 10]] }));
  await sent(2);
  expect(asked[1]?.revision).toBe(2);
});

test("an answer does not take back the paint of what still waits", async () => {
  strike(0);
  strike(20);
  strike(40);
  asked[0]?.answer(head({ revision: 2, struck: [[1, 9]] }));
  await sent(2);
  expect(shown()?.struck).toEqual([[1, 9], [20, 30], [40, 50]]);
  asked[1]?.answer(head({ revision: 3, struck: [[1, 9], [21, 29]] }));
  await sent(3);
  asked[2]?.answer(head({ revision: 4, struck: [[1, 9], [21, 29], [41, 49]] }));
  await vi.waitFor(() => expect(shown()?.struck).toEqual([[1, 9], [21, 29], [41, 49]]));
});

test("what is refused is said and unpainted, what waits behind it is carried out", async () => {
  queries.setQueryDefaults(keys.head("e"), { queryFn: () => head({ revision: 5, struck: [[90, 99]] }) });
  const refused = strike(0);
  const other = strike(20);
  await queries.prefetchQuery({ queryKey: keys.head("e") }); // known to the cache as one that can be asked for
  asked[0]?.refuse(new Error("No."));
  await sent(2);
  expect(refused.refused).toHaveBeenCalledWith(new Error("No."));
  expect(refused.done).not.toHaveBeenCalled();
  asked[1]?.answer(head({ revision: 6, struck: [[20, 30]] }));
  await vi.waitFor(() => expect(other.done).toHaveBeenCalled());
  expect(shown()?.struck).toEqual([[20, 30]]);
});

test("is told what was before and what is after", async () => {
  const change = strike(0);
  const after = head({ revision: 2 });
  asked[0]?.answer(after);
  await vi.waitFor(() => expect(change.done).toHaveBeenCalledWith(expect.objectContaining({ revision: 1 }), after));
});
