/** Editing: sends operations, paints them at once, and says what they did. */
import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { author, who } from "../api/author";
import { client, got, Refusal, type Head } from "../api/client";
import type { SchemaOperationIn } from "../api/schema";
import { clock, RATE } from "../api/time";
import { desk, failed } from "../desk/desk";
import { EditQueue, type Change } from "./queue";
import { covered, withRange, type Ranges } from "./tokens";

type Range = readonly [number, number];

export interface Edit {
  strike: (ranges: readonly Range[]) => unknown;
  putBack: (ranges: readonly Range[]) => unknown;
  undo: () => void;
  redo: () => void;
  /** Any other operation of the API; `then` follows once it is carried out. */
  operate: (operation: Operation, then?: (after: Head) => void) => void;
}

export type Operation = SchemaOperationIn["operation"];

/** A step by its number, who did it where that was somebody else, and what it did. */
export function told({ number, summary, who: by }: NonNullable<Head["newest"]>): string {
  return `step ${number}${by && by !== who() ? ` by ${by}` : ""}: ${summary}`;
}

const PAST: Record<string, string> = { undo: "Undone ", redo: "Done again " };

function sentence(before: Head | undefined, after: Head): string {
  const { newest } = after;
  const past = newest ? PAST[newest.step] : undefined;
  const step = !newest ? "Done" : past ? `${past}${told(newest)}` : `${newest.summary} (step ${newest.number})`;
  const saved = (before?.running_time ?? after.running_time) - after.running_time;
  const change = Math.abs(saved) < RATE / 20 ? "" : saved > 0 ? `, ${clock(saved, 1)} saved` : saved < 0 ? `, ${clock(-saved, 1)} longer` : "";
  return `${step.charAt(0).toUpperCase()}${step.slice(1)}${change}, ${clock(after.running_time)} left`;
}

/** The same correction a second time: it may be one for the show's list. */
function proposed(show_id: string, { proposal }: Head) {
  if (!proposal) return {};
  const add = () => {
    const said = got(client.POST("/api/shows/{show_id}/spellings", { params: { path: { show_id } }, body: proposal }));
    void said.then(() => desk().say(`“${proposal.term}” is a house spelling now`));
  };
  return { also: { text: `Always write “${proposal.term}”`, run: add } };
}

const asked = (ranges: readonly Range[]) => ranges.map(([begin, end]) => ({ begin, end }));
const unpainted = () => ({});

/** What an operation changes that can be shown before the server has answered. */
function painted({ struck, splices }: Head, operation: Operation): Partial<Head> {
  switch (operation.kind) {
    case "strike":
    case "put back":
      return { struck: operation.ranges.reduce<Ranges>((all, { begin, end }) => withRange(all, begin, end, operation.kind === "strike"), struck) as number[][] };
    case "trim": {
      const { at, before, after } = operation;
      return {
        struck: struck.map(([from = 0, to = 0]) => (to === at && from + before < to + after ? [from + before, to + after] : [from, to])),
        splices: splices.map((each) => (each === at ? at + after : each)),
      };
    }
    default:
      return {};
  }
}

export function useEdit(editionId: string, showId: string): Edit {
  const queries = useQueryClient();
  const queue = useMemo(() => new EditQueue(queries, editionId), [queries, editionId]);
  return useMemo(() => editing(queue, editionId, showId), [queue, editionId, showId]);
}

export function editing(queue: EditQueue, editionId: string, showId: string): Edit {
  const carryOut = (paint: Change["paint"], send: Change["send"], then?: (after: Head) => void) =>
    queue.add({
      paint,
      send,
      done: (before, after) => {
        then?.(after);
        desk().say(sentence(before, after), { undo: after.newest?.step !== "undo", ...proposed(showId, after) });
      },
      refused: (error) => {
        if (error instanceof Refusal && error.problem.code === "nothing-changed") desk().say(error.message);
        else failed(error);
      },
    });

  const params = { path: { edition_id: editionId } };
  const operate = (operation: Operation, then?: (after: Head) => void) =>
    carryOut((head) => painted(head, operation), (revision) => got(client.POST("/api/editions/{edition_id}/operations", { params, body: { revision, operation, ...author() } })), then);
  return {
    operate,
    strike: (ranges) => ranges.length && operate({ kind: "strike", ranges: asked(ranges), why: "by hand", settle: true }),
    putBack: (ranges) => ranges.length && operate({ kind: "put back", ranges: asked(ranges) }),
    undo: () => carryOut(unpainted, (revision) => got(client.POST("/api/editions/{edition_id}/undo", { params, body: { revision, ...author() } }))),
    redo: () => carryOut(unpainted, (revision) => got(client.POST("/api/editions/{edition_id}/redo", { params, body: { revision, ...author() } }))),
  };
}

/** What is struck with everything before a place, everything from there on, or all but a stretch. */
export function allAround({ recorded_time }: Pick<Head, "recorded_time">, [begin, end]: Range, side: "before" | "after" | "others"): Range[] {
  const ranges: Range[] = [];
  if (side !== "after" && begin > 0) ranges.push([0, begin]);
  if (side === "after") ranges.push([begin, recorded_time]);
  if (side === "others" && end < recorded_time) ranges.push([end, recorded_time]);
  return ranges;
}

/** What one key does to a selection: strike it, or put it back when all of it is struck. */
export function toggles(head: Head, [begin, end]: Range): "strike" | "put back" {
  return covered(head.struck, begin, end) >= end - begin ? "put back" : "strike";
}
