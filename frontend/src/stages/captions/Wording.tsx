/** A shorter wording for what is said: captions read it, the transcript stays as it is. */
import { useRef } from "react";
import type { Edit } from "../../page/edit";
import { Button, Heading } from "../../ui/controls";
import type { Cue } from "./cues";

interface WordingProps {
  cue: Cue | undefined;
  edit: Edit;
}

export function Wording({ cue, edit }: WordingProps) {
  const text = useRef<HTMLTextAreaElement>(null);
  if (!cue) return null;
  const read = cue.lines.join(" ");
  const put = (wanted: string) => edit.operate({ kind: "caption wording", begin: cue.begin, end: cue.until, text: wanted });
  const send = () => {
    const wanted = text.current?.value.trim() ?? "";
    if (wanted && wanted !== read) put(wanted);
  };
  return (
    <>
      <Heading>Wording</Heading>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          send();
        }}
      >
        <textarea
          key={`${cue.begin} ${read}`}
          ref={text}
          aria-label="What this caption reads"
          rows={2}
          maxLength={400}
          defaultValue={read}
          className="block w-full resize-y rounded-md border border-line bg-paper px-2 py-1 font-serif leading-snug"
          onKeyDown={(event) => {
            if (event.key !== "Enter" || event.shiftKey) return;
            event.preventDefault();
            send();
          }}
        />
        <div className="mt-1.5 flex flex-wrap gap-1.5">
          <Button type="submit" hint="Captions read this; the transcript stays (Enter)">
            Reword
          </Button>
          <Button why={!cue.said && "It reads as it is said"} hint={cue.said ? `Said: ${cue.said}` : undefined} onClick={() => put("")}>
            As it is said
          </Button>
        </div>
      </form>
    </>
  );
}
