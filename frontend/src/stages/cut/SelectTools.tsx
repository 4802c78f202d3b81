import type { Episode, Head, PageWords } from "../../api/client";
import { placed } from "../../page/placed";
import { indexAt, type Tokens } from "../../page/tokens";
import { COLOURS, markAsGood, takeOff } from "../../page/Selects";
import { Button, Heading } from "../../ui/controls";

interface SelectProps {
  episode: Episode;
  head: Head;
  page: PageWords;
  tokens: Tokens;
  picked: readonly [number, number] | null;
}

/** Marks what is selected on the page as good, in one of six colours, or takes such a mark off. */
export function SelectTools({ episode, head, page, tokens, picked }: SelectProps) {
  const passage = picked ? page.passages[tokens.passage[indexAt(tokens.list, picked[0])] ?? 0] : undefined;
  const here =
    passage && picked
      ? episode.selects.findLast((each) => placed([passage], each.id, each.recording, each.start, each.end).some(({ begin, end }) => begin < picked[1] && end > picked[0]))
      : undefined;
  return (
    <section aria-label="Selects">
      <Heading aside={episode.selects.length ? `${episode.selects.length}` : undefined}>Good stretches</Heading>
      <div className="flex items-center gap-1.5">
        {COLOURS.map((colour) => (
          <button
            key={colour}
            type="button"
            aria-label={`Mark as good, in ${colour}`}
            title={picked ? `Mark what is selected as good, in ${colour}` : "Select words first"}
            aria-disabled={!picked}
            data-colour={colour}
            className="select-swatch"
            onClick={() => picked && void markAsGood(head, picked, colour)}
          />
        ))}
        <Button className="ml-auto !px-2 !py-0.5 text-xs" why={!here && "Nothing marked as good is selected"} onClick={() => here && void takeOff(head, here)}>
          Remove
        </Button>
      </div>
    </section>
  );
}
