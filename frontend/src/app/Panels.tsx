import { Command } from "cmdk";
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState, type KeyboardEvent, type ReactNode } from "react";
import type { Episode, PageWords } from "../api/client";
import { Button } from "../ui/controls";
import { desk, useDesk } from "../desk/desk";
import { Editions } from "./Editions";
import { HistoryList } from "./HistoryList";
import { NewNote, NoteList } from "../page/Notes";
import { STAGES } from "../stages";
import { allowed, GROUPS, type Action } from "../page/actions";
import { ACTIONS, act, changeKeys, changedKeys, keysFor, keysOf, shown } from "./shortcuts";
import type { Scene } from "../page/scene";

const close = () => desk().set({ panel: null });

/** What opens over the page: the palette, the sheet of keys, history, editions. */
export function Panels({ episode, scene, page }: { episode: Episode; scene: Scene; page: PageWords }) {
  const panel = useDesk((state) => state.panel);
  switch (panel) {
    case "palette":
      return <Palette scene={scene} />;
    case "keys":
      return (
        <Panel title="Keys" wide>
          <Keys />
        </Panel>
      );
    case "history":
      return (
        <Panel title="History" wide>
          <HistoryList scene={scene} />
        </Panel>
      );
    case "editions":
      return (
        <Panel title="Editions" wide>
          <Editions episode={episode} scene={scene} />
        </Panel>
      );
    case "note":
      return (
        <Panel title="New note">
          <NewNote episode={episode} scene={scene} />
        </Panel>
      );
    case "suggest":
      return (
        <Panel title="Suggest a cut">
          <NewNote episode={episode} scene={scene} cut />
        </Panel>
      );
    case "note-list":
      return (
        <Panel title="Notes" wide>
          <NoteList episode={episode} scene={scene} page={page} />
        </Panel>
      );
    default:
      return <StagePanel id={panel ?? ""} scene={scene} />;
  }
}

/** What a stage opens over the page. */
function StagePanel({ id, scene }: { id: string; scene: Scene }) {
  const found = STAGES.map((stage) => stage.panels?.[id]).find(Boolean);
  return found ? (
    <Panel title={found.title} wide>
      <found.Panel scene={scene} />
    </Panel>
  ) : null;
}

function Panel({ title, wide, children }: { title: string; wide?: boolean; children: ReactNode }) {
  return (
    <Dialog.Root open onOpenChange={close}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[86vh] ${wide ? "w-[860px]" : "w-[560px]"} max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl bg-paper p-6 text-ink shadow-xl`}
        >
          <Dialog.Title className="mb-3 pr-8 font-serif text-xl font-semibold">{title}</Dialog.Title>
          <Dialog.Close aria-label="Close" title="Close (Esc)" className="absolute top-4 right-4 rounded-md p-1.5 text-soft hover:bg-pick hover:text-ink">
            <X size={18} />
          </Dialog.Close>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

const KEY = "justify-self-end rounded border border-line bg-side px-1.5 font-mono text-xs whitespace-nowrap";

/** Type a few letters of what is to be done. */
function Palette({ scene }: { scene: Scene }) {
  const run = (action: Action) => {
    close();
    // The field gives the focus back before the action takes place.
    requestAnimationFrame(() => act(action, scene));
  };
  return (
    <Dialog.Root open onOpenChange={close}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-40 bg-black/20" />
        <Dialog.Content
          aria-describedby={undefined}
          aria-label="Every action"
          className="fixed top-[14vh] left-1/2 z-50 w-[520px] max-w-[94vw] -translate-x-1/2 overflow-hidden rounded-xl border border-line bg-paper text-ink shadow-xl"
        >
          <Dialog.Title className="sr-only">All actions</Dialog.Title>
          <Command label="Every action" loop>
            <Command.Input autoFocus placeholder="Search actions" aria-label="Action" className="palette w-full border-b border-line bg-paper px-4 py-3 font-serif text-lg outline-none placeholder:text-soft" />
            <Command.List className="max-h-[50vh] overflow-y-auto p-1.5">
              <Command.Empty className="px-3 py-4 text-soft">No matching action.</Command.Empty>
              {ACTIONS.filter((action) => action.id !== "palette" && allowed(action)).map((action) => (
                <Command.Item key={action.id} value={action.name} onSelect={() => run(action)} className="flex cursor-pointer items-center justify-between gap-3 rounded-md px-2.5 py-1.5 data-[selected=true]:bg-pick">
                  {action.name}
                  {keysFor(action)[0] && <span className={KEY}>{shown(keysFor(action)[0] ?? "")}</span>}
                </Command.Item>
              ))}
            </Command.List>
          </Command>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** All keys; a click on one lets it be changed. */
function Keys() {
  const [changing, setChanging] = useState<Action | null>(null);
  const [told, setTold] = useState("");
  const changed = changedKeys();
  const press = (event: KeyboardEvent) => {
    if (!changing || ["Shift", "Control", "Alt", "Meta"].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key !== "Escape") {
      const other = changeKeys(changing, keysOf(event.nativeEvent));
      setTold(other ? `“${other.name}” no longer has that key.` : "");
    }
    setChanging(null);
  };
  return (
    <div onKeyDownCapture={press}>
      <div className="columns-2 gap-6">
        {GROUPS.map((group) => (
          <section key={group} aria-label={group} className="mb-3 break-inside-avoid">
            <h3 className="mb-0.5 ml-[9.5rem] font-semibold">{group}</h3>
            <ul className="space-y-0.5">
              {ACTIONS.filter((each) => each.group === group && allowed(each)).map((action) => (
                <li key={action.id} className="flex items-center gap-2">
                  <button
                    type="button"
                    aria-label={`Key for ${action.name}`}
                    title="Click, then press the new key"
                    onClick={() => setChanging(action)}
                    className={`w-36 shrink-0 rounded border px-1.5 text-right font-mono text-xs leading-5 ${changing?.id === action.id ? "border-blue text-blue" : changed[action.id] ? "border-ochre" : "border-transparent hover:border-line"}`}
                  >
                    {changing?.id === action.id ? "press a key" : keysFor(action).map(shown).join(" or ") || "none"}
                  </button>
                  <span className="min-w-0 flex-1 truncate" title={action.name}>
                    {action.name}
                  </span>
                  {changed[action.id] && (
                    <button
                      type="button"
                      className="text-xs text-soft underline"
                      onClick={() => {
                        changeKeys(action, null);
                        setTold(`“${action.name}” has its original key again.`);
                      }}
                    >
                      Reset
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </section>
        ))}
      </div>
      <p role="status" className="mt-4 leading-snug text-soft">
        {told || "Click a key to change it. With nothing selected, actions are about the word at the playhead."}
      </p>
      <Dialog.Close asChild>
        <Button className="mt-3">Close</Button>
      </Dialog.Close>
    </div>
  );
}
