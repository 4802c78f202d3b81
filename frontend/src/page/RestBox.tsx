/** Opens at a rest that was clicked, and shows what can be done with it. */
import { Popover } from "radix-ui";
import { useEffect, useMemo } from "react";
import type { Head } from "../api/client";
import { desk, useDesk } from "../desk/desk";
import { usePlace } from "../desk/place";
import type { Edit } from "./edit";
import { RestTools } from "./RestTools";
import { indexAt, type Tokens } from "./tokens";

const close = () => desk().set({ rest: null });

interface RestBoxProps {
  tokens: Tokens;
  head: Head;
  edit: Edit;
}

export function RestBox({ tokens, head, edit }: RestBoxProps) {
  const at = useDesk((state) => state.rest);
  const token = at === null ? undefined : tokens.list[indexAt(tokens.list, at)];
  const box = useMemo(() => ({ current: token ? document.querySelector<HTMLElement>(`.page [data-at="${token.at}"]`) : null }), [token]);
  // It is about the place where one is: it goes as one goes on.
  useEffect(() => (at === null ? undefined : usePlace.subscribe((now, before) => (now.cursor !== before.cursor || now.selection !== before.selection) && close())), [at]);
  if (token?.k !== "r" || !box.current) return null;
  return (
    <Popover.Root open onOpenChange={close}>
      <Popover.Anchor virtualRef={box as { current: HTMLElement }} />
      <Popover.Portal>
        {/* Not a dialog: keys still go to the page, where they are about this rest. */}
        <Popover.Content
          role="group"
          aria-label="Rest"
          side="bottom"
          sideOffset={4}
          collisionPadding={8}
          className="z-30 rounded-lg border border-blue bg-paper px-3 pb-3 text-ink shadow-xl"
          onOpenAutoFocus={(event) => event.preventDefault()}
          onCloseAutoFocus={(event) => event.preventDefault()}
        >
          <RestTools key={`${token.at}-${head.revision}`} rest={token} head={head} edit={edit} done={close} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
