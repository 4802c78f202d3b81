/** The menu of a right click on the page: what can be done with what is under the pointer, and the keys of it. */
import { ContextMenu } from "radix-ui";
import { Fragment, useState, type ReactNode } from "react";
import { allowed } from "../page/actions";
import { pointAt, type Kind } from "../page/menu";
import type { Scene } from "../page/scene";
import { ACTIONS, act, keysFor, shown } from "./shortcuts";

/** What is offered for each, in the order in which one looks for it; lines part what belongs together. */
const OFFERED: Readonly<Record<Kind, readonly (readonly string[])[]>> = {
  words: [
    ["strike", "put-back", "lift", "try"],
    ["retype", "accept", "note", "suggest"],
    ["lock"],
    ["before", "after", "keep"],
    ["copy", "cut", "paste", "part", "rest"],
    ["begin-passage"],
    ["hear"],
  ],
  rest: [
    ["rest-length", "strike", "put-back", "try"],
    ["before", "after"],
    ["paste", "note"],
    ["hear"],
  ],
  passage: [
    ["strike", "put-back", "lift", "try"],
    ["copy", "cut", "note", "suggest"],
    ["lock"],
    ["before", "after", "keep"],
    ["run-on", "hear-alone"],
  ],
  splice: [
    ["hear-splice", "splice-before", "next-splice"],
    ["before", "after"],
    ["paste", "rest"],
  ],
};

export function PageMenu({ scene, children }: { scene: Scene; children: ReactNode }) {
  const [kind, setKind] = useState<Kind>("words");
  return (
    <ContextMenu.Root modal={false}>
      <ContextMenu.Trigger asChild onContextMenuCapture={(event) => setKind(pointAt(event.target, scene.tokens))}>
        <div className="flex min-h-0 flex-1 flex-col">{children}</div>
      </ContextMenu.Trigger>
      <ContextMenu.Portal>
        <ContextMenu.Content aria-label="What can be done here" collisionPadding={8} className="z-50 min-w-64 overflow-hidden rounded-lg border border-line bg-paper p-1 text-ink shadow-xl">
          <Offered kind={kind} scene={scene} />
        </ContextMenu.Content>
      </ContextMenu.Portal>
    </ContextMenu.Root>
  );
}

/** Drawn when the menu opens: what is offered depends on what is selected then. */
function Offered({ kind, scene }: { kind: Kind; scene: Scene }) {
  const groups = OFFERED[kind].map((ids) => ids.flatMap((id) => ACTIONS.filter((action) => action.id === id && allowed(action) && (action.offered?.(scene) ?? true)))).filter((group) => group.length > 0);
  return groups.map((group, index) => (
    <Fragment key={group[0]?.id}>
      {index > 0 && <ContextMenu.Separator className="my-1 h-px bg-line" />}
      {group.map((action) => (
        <ContextMenu.Item
          key={action.id}
          className="flex cursor-pointer items-baseline justify-between gap-6 rounded px-2.5 py-1 outline-none data-[highlighted]:bg-pick"
          // The menu gives the focus back before the action takes place.
          onSelect={() => requestAnimationFrame(() => act(action, scene))}
        >
          {action.name}
          <span className="font-mono text-xs text-soft">{shown(keysFor(action)[0] ?? "")}</span>
        </ContextMenu.Item>
      ))}
    </Fragment>
  ));
}
