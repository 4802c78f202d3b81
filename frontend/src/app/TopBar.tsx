import { ChevronDown, HelpCircle, History, ListFilter, Moon, Pause, Play, Redo2, Undo2 } from "lucide-react";
import { Link } from "wouter";
import type { Episode, Head, Plan } from "../api/client";
import clsx from "clsx";
import { clock, RATE } from "../api/time";
import { told, type Edit } from "../page/edit";
import { Initials } from "../page/People";
import { useOthers } from "../page/presence";
import { player } from "../player/player";
import { Now } from "./Now";
import { Titles } from "./Titles";
import { Button, Choice } from "../ui/controls";
import { Pick } from "../ui/fields";
import { toggleTheme } from "../ui/theme";
import { useDesk } from "../desk/desk";
import { useShallow } from "zustand/react/shallow";
import { SPEEDS } from "./shortcuts";

interface TopBarProps {
  episode: Episode;
  head: Head | undefined;
  plan: Plan | undefined;
  edit: Edit;
}

/** Running time against the target, with what is missing or too much. */
function Gauge({ head }: { head: Head }) {
  const off = head.running_time - head.target;
  const slack = { exactly: RATE / 2, "at most": 0, about: head.target / 20 }[head.target_kind];
  const fits = head.target_kind === "at most" ? off <= 0 : Math.abs(off) <= slack;
  const told = fits ? `fits ${head.target_kind} ${clock(head.target)}` : off > 0 ? `${clock(off)} over ${clock(head.target)}` : `${clock(-off)} short of ${clock(head.target)}`;
  return (
    <span className="w-28" aria-label="Target" title={`Target: ${head.target_kind} ${clock(head.target)}`}>
      <span className={clsx("block text-xs leading-tight", fits ? "text-[#9db8a6]" : "text-[#e8b46b]")}>{told}</span>
      <span className="block h-1 overflow-hidden rounded bg-barline">
        <span className={clsx("block h-full", fits ? "bg-[#9db8a6]" : "bg-[#e8b46b]")} style={{ width: `${Math.min(100, (head.running_time / head.target) * 100)}%` }} />
      </span>
    </span>
  );
}

/** Who else has this edition open. */
function Here({ edition }: { edition: string }) {
  return useOthers(edition).map((person) => <Initials key={person.name} person={person} />);
}

export function TopBar({ episode, head, plan, edit }: TopBarProps) {
  const { playing, mode, speed, set } = useDesk(useShallow(({ playing, mode, speed, set }) => ({ playing, mode, speed, set })));
  const saved = head ? head.recorded_time - head.running_time : 0;
  return (
    <header className="bar col-span-3 flex items-center gap-3 bg-bar max-[1100px]:gap-2 px-3.5 text-bartext">
      <Link href="/" className="font-serif text-base font-semibold tracking-wide" aria-label="Jaskel, to the library">
        Jaskel
      </Link>
      <nav aria-label="Where you are" className="flex min-w-0 flex-1 items-center gap-1 whitespace-nowrap text-barsoft">
        <Link href="/" className="min-w-0 shrink-[20] truncate hover:text-bartext">
          {episode.show}
        </Link>
        / <Titles episode={episode} /> /
        <button type="button" className="max-w-40 shrink-0 truncate rounded px-1 hover:bg-barline hover:text-bartext" aria-label={`Edition ${head?.name ?? ""}`} onClick={() => set({ panel: "editions" })}>
          {head?.name} <ChevronDown size={12} className="inline" />
        </button>
      </nav>
      <Here edition={head?.id ?? ""} />
      <Now plan={plan} className="w-16 text-right font-mono text-xs" />
      <button
        type="button"
        aria-label={playing ? "Pause" : "Play"}
        aria-keyshortcuts="Space"
        disabled={!plan?.length}
        onClick={() => player.toggle()}
        className="grid size-8 place-items-center rounded-full bg-bartext text-[#20262b] disabled:bg-barline disabled:text-barsoft"
      >
        {playing ? <Pause size={15} fill="currentColor" /> : <Play size={15} fill="currentColor" className="ml-0.5" />}
      </button>
      <output aria-label="Running time" className="font-mono text-xs text-bartext" title="Running time as edited">
        {clock(head?.running_time ?? 0)}
      </output>
      <Choice
        dark
        label="What is played"
        value={mode}
        options={[
          ["edited", "As edited"],
          ["recorded", "As recorded"],
        ]}
        onChange={(next) => set({ mode: next })}
      />
      <Pick dark label="Speed" value={String(speed)} options={SPEEDS.map((each) => [String(each), `${each} ×`] as const)} onChange={(each) => player.setSpeed(Number(each))} />
      {head && head.target > 0 ? (
        <Gauge head={head} />
      ) : (
        <span role="group" className="w-24 text-[#9db8a6] max-[1100px]:hidden" aria-label="Saved">
          {saved > 0 && `${clock(saved)} taken out`}
        </span>
      )}
      <div className="flex gap-1.5">
        <Button look="bar" className="!px-2" aria-label="Undo" hint={head?.undo ? `Undo: ${told(head.undo)} (Ctrl+Z)` : "Undo"} why={!head?.undo && "Nothing to undo"} onClick={edit.undo}>
          <Undo2 size={15} />
        </Button>
        <Button look="bar" className="!px-2" aria-label="Redo" hint={head?.redo ? `Redo: ${told(head.redo)} (Ctrl+Shift+Z)` : "Redo"} why={!head?.redo && "Nothing to redo"} onClick={edit.redo}>
          <Redo2 size={15} />
        </Button>
        <Button look="bar" className="!px-2" aria-label="History" hint="History (Ctrl+H)" onClick={() => set({ panel: "history" })}>
          <History size={15} />
        </Button>
        <Button look="bar" className="!px-2" aria-label="Actions" hint="All actions (Ctrl+K)" onClick={() => set({ panel: "palette" })}>
          <ListFilter size={15} />
        </Button>
        <Button look="bar" className="!px-2" aria-label="Light or dark" hint="Light or dark" onClick={toggleTheme}>
          <Moon size={15} />
        </Button>
        <Button look="bar" className="!px-2" aria-label="Keys" hint="All keys (?)" onClick={() => set({ panel: "keys" })}>
          <HelpCircle size={15} />
        </Button>
      </div>
    </header>
  );
}
