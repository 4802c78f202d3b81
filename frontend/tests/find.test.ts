import { describe, expect, test } from "vitest";
import { around, find, places, step } from "../src/page/find";
import { flatten } from "../src/page/tokens";
import { head, page, seconds } from "./made";

const words = page(
  { voice: "orla", words: ["The", "kettle,", "the", "Kettles", { rest: 3 }, { text: "hull", p: 0.2 }] },
  { voice: "teo", words: ["A", "kettle", "of", "steam", { text: "boats", loose: true, over: true }] },
);
const tokens = flatten(words);
const texts = (ranges: readonly (readonly [number, number])[]) =>
  ranges.map(([begin, end]) => tokens.list.filter((token) => token.at >= begin && token.at < end).map((token) => token.text).join(" "));
const said = (text: string, { whole = true, voice = "" } = {}) => texts(find(words, tokens, { text, whole, voice }));

describe("finding words", () => {
  test("minds neither capitals nor punctuation", () => expect(said("KETTLE")).toEqual(["kettle,", "kettle"]));
  test("finds parts of words where that is wanted", () => expect(said("kettle", { whole: false })).toEqual(["kettle,", "Kettles", "kettle"]));
  test("finds phrases, and begins again only behind one that was found", () => expect(said("the kettle")).toEqual(["The kettle,"]));
  test("lets the outer words of a phrase be parts of words", () => expect(said("e kettle", { whole: false })).toEqual(["The kettle,", "the Kettles"]));
  test("keeps to a voice", () => expect(said("kettle", { voice: "teo" })).toEqual(["kettle"]));
  test("finds nothing for no words", () => expect([said(""), said(" , ")]).toEqual([[], []]));
  test("reads letters of any script", () => {
    const other = page({ words: ["Größe", "Мост", "橋"] });
    const list = flatten(other);
    const count = (text: string) => find(other, list, { text, whole: true, voice: "" }).length;
    expect([count("größe"), count("мост"), count("橋"), count("groe")]).toEqual([1, 1, 1, 0]);
  });
});

describe("places to step through", () => {
  test("are unsure and loose words, struck stretches and long rests", () => {
    const now = head({ struck: [[0, seconds(1)]] });
    expect(texts(places("unsure", tokens, now))).toEqual(["hull"]);
    expect(texts(places("loose", tokens, now))).toEqual(["boats"]);
    expect(texts(places("over", tokens, now))).toEqual(["boats"]);
    expect(texts(places("struck", tokens, now))).toEqual(["The kettle,"]);
    expect(places("rests", tokens, now)).toEqual([[seconds(2), seconds(5)]]);
  });

  test("what is struck is neither unsure nor a rest any more", () => {
    const now = head({ struck: [[seconds(2), seconds(5.5)]] });
    expect(places("unsure", tokens, now)).toEqual([]);
    expect(places("rests", tokens, now)).toEqual([]);
  });

  test("go round at the ends", () => {
    const list = [
      [10, 20],
      [30, 40],
    ] as const;
    expect([step(list, 10, 1), step(list, 30, 1), step(list, 30, -1), step(list, 10, -1)]).toEqual([list[1], list[0], list[0], list[1]]);
    expect(step([], 0, 1)).toBeUndefined();
  });

  test("are listed with the words around them", () => {
    const [hit] = find(words, tokens, { text: "a kettle", whole: true, voice: "" });
    expect(around(tokens, hit ?? [0, 0], 2)).toEqual(["Kettles hull", "A kettle", "of steam"]);
    expect(around(tokens, [0, seconds(0.5)], 2)).toEqual(["", "The", "kettle, the"]);
  });
});
