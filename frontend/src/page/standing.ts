/** Where what belongs to the material stands on a page: stretches of recordings, and single places of them. */
import type { Passage } from "../api/client";
import type { Placed } from "./marks";

/** Where a stretch of a recording stands: in every passage that has words of it, from the first to the last. */
export function placed(passages: readonly Passage[], id: string, recording: string, start: number, end: number): Placed[] {
  return passages.flatMap((passage) => {
    // A line said again stands among words of another recording.
    const own = passage.tokens.filter((token) => (token.pickup || passage.recording) === recording);
    const inside = own.filter((token) => token.t >= 0 && token.t + token.len / 2 >= start && token.t + token.len / 2 < end);
    const [first, last] = [inside[0], inside.at(-1)];
    if (!first || !last) return [];
    const toMaterial = (laid: number) => {
      const token = own.findLast((each) => each.t >= 0 && each.at <= laid) ?? first;
      return Math.round(token.t + Math.min(laid - token.at, token.len));
    };
    return [{ id: `${id} ${passage.at}`, begin: first.at, end: last.at + last.len, toMaterial }];
  });
}

/** Where a note or a chapter stands: beside the word at its place. */
export const stands = (passages: readonly Passage[], of: { id: string; recording: string; at: number }): Placed[] =>
  passages.flatMap(({ recording, tokens, at }) => {
    const token = recording === of.recording ? tokens.find(({ t, len }) => t >= 0 && of.at >= t && of.at < t + len) : undefined;
    return token ? [{ id: `${of.id} ${at}`, begin: token.at, end: token.at + token.len, toMaterial: () => of.at }] : [];
  });
