/** Over the monitor: where a camera looks is dragged, and what must not be seen is drawn round. */
import { useRef, useState, type KeyboardEvent, type MouseEvent, type PointerEvent } from "react";
import type { Head, View } from "../../api/client";
import { here } from "../../desk/place";
import { boxOf, cropAt, seenAt, toLaid, type Box } from "../../player/places";
import { player } from "../../player/player";
import type { Edit } from "../../page/edit";
import { useDrawn } from "./framing";
import { changedGraphic, type Graphic } from "../../page/graphics";
import { lookedAt, useLooking } from "./looking";
import { Slots } from "./Slots";

interface Grabbed {
  view: View;
  /** The part of its picture that is seen, and where it lies on the monitor, in pixels. */
  crop: Box;
  area: { left: number; top: number; width: number; height: number };
  x: number;
  y: number;
}

/** The view under a point of the monitor, with what is seen of it. */
function viewUnder(event: PointerEvent<HTMLElement>): Grabbed | null {
  const heard = player.heard();
  const seen = heard && seenAt(heard.plan, heard.at);
  if (!seen) return null;
  const frame = event.currentTarget.getBoundingClientRect();
  for (const view of [...seen.layer.views].reverse()) {
    const box = boxOf(view.box);
    const area = { left: frame.left + box.left * frame.width, top: frame.top + box.top * frame.height, width: box.width * frame.width, height: box.height * frame.height };
    const inside = event.clientX >= area.left && event.clientX < area.left + area.width && event.clientY >= area.top && event.clientY < area.top + area.height;
    if (inside && !view.still) return { view, crop: cropAt(view, heard.at - seen.layer.begin), area, x: event.clientX, y: event.clientY };
  }
  return null;
}

export default function Looking({ head, edit }: { head: Head; edit: Edit }) {
  const { drawing, face, form, follows } = useLooking();
  const framing = useDrawn((state) => state.framing);
  const [written, setWritten] = useState<{ graphic: Graphic; box: Box } | null>(null);
  const [drawn, setDrawn] = useState<{ left: number; top: number; width: number; height: number } | null>(null);

  const down = (event: PointerEvent<HTMLElement>) => {
    const grabbed = viewUnder(event);
    if (!grabbed) return;
    event.preventDefault();
    const frame = event.currentTarget.getBoundingClientRect();
    const { crop, area, view, x, y } = grabbed;
    const heard = player.heard();
    if (face && heard) {
      const point = [crop.left + ((x - area.left) / area.width) * crop.width, crop.top + ((y - area.top) / area.height) * crop.height];
      useLooking.setState({ face: null });
      return edit.operate({ kind: "face of", camera: view.recording, voice: face, at: toLaid(heard.plan, heard.at), point });
    }
    let to = { x, y };
    const move = (next: globalThis.PointerEvent) => {
      to = { x: next.clientX, y: next.clientY };
      const [left, top] = [Math.min(x, to.x) - frame.left, Math.min(y, to.y) - frame.top];
      setDrawn(drawing ? { left, top, width: Math.abs(to.x - x), height: Math.abs(to.y - y) } : { left: frame.width / 2 + (to.x - x) - 10, top: frame.height / 2 + (to.y - y) - 10, width: 20, height: 20 });
    };
    const drop = () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", drop);
      setDrawn(null);
      const [dx, dy] = [((to.x - x) / area.width) * crop.width, ((to.y - y) / area.height) * crop.height];
      if (Math.hypot(to.x - x, to.y - y) < 4) return;
      const heard = player.heard();
      const range = lookedAt.range();
      if (!heard || !range) return;
      if (drawing) {
        const inPicture = (px: number, py: number) => [crop.left + ((px - area.left) / area.width) * crop.width, crop.top + ((py - area.top) / area.height) * crop.height] as const;
        const [ax, ay] = inPicture(Math.min(x, to.x), Math.min(y, to.y));
        edit.operate({ kind: "cover", ...range, at: toLaid(heard.plan, heard.at), camera: view.recording, box: [ax, ay, Math.abs(dx), Math.abs(dy)], form, follows });
        useLooking.setState({ drawing: false });
        return;
      }
      // The picture goes with the hand: the camera looks the other way.
      const middle = { x: crop.left + crop.width / 2 - dx, y: crop.top + crop.height / 2 - dy };
      const known = head.aims.find((each) => each.camera === view.recording && each.begin <= here().cursor && here().cursor < each.end);
      const within = (at: number) => Math.min(1, Math.max(0, at));
      edit.operate({ kind: "aim", ranges: [range], camera: view.recording, aim: { x: within(middle.x), y: within(middle.y), closer: known?.closer ?? 1, follows: known?.follows ?? true } });
    };
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", drop);
  };

  if (framing) return <Slots framing={framing} />;
  /** A double click on a name or title writes it anew, in its place. */
  const write = (event: MouseEvent<HTMLElement>) => {
    const heard = player.heard();
    if (!heard) return;
    const frame = event.currentTarget.getBoundingClientRect();
    const [x, y] = [(event.clientX - frame.left) / frame.width, (event.clientY - frame.top) / frame.height];
    const under = heard.plan.overlays.findLast(({ mark, begin, until, box: [left = 0, top = 0, width = 0, height = 0] }) => mark && begin <= heard.at && heard.at < until && x >= left && x < left + width && y >= top && y < top + height);
    const graphic = head.graphics.find((each) => each.id === under?.mark);
    if (graphic && under) setWritten({ graphic, box: boxOf(under.box) });
  };

  if (written) return <Written {...written} edit={edit} close={() => setWritten(null)} />;
  return (
    <div data-looking className="absolute inset-0 z-30" style={{ cursor: drawing || face ? "crosshair" : "grab" }} title={face ? "Click the face" : drawing ? "Draw round what must not be seen" : "Drag the picture to where the camera should look"} onPointerDown={down} onDoubleClick={write}>
      {drawn && <div className={drawing ? "absolute border-2 border-ochre bg-ochre/20" : "absolute rounded-full border-2 border-blue"} style={drawn} />}
    </div>
  );
}

interface WrittenProps {
  graphic: Graphic;
  box: Box;
  edit: Edit;
  close: () => void;
}

/** The words of a title, or name and role of a lower third, in their place on the monitor. */
function Written({ graphic, box, edit, close }: WrittenProps) {
  const isTitle = graphic.kind === "title";
  // Going away, the field loses the focus once more.
  const done = useRef(false);
  const take = (text: string | null) => {
    if (done.current) return;
    done.current = true;
    if (text === null) return close();
    const [name = "", ...role] = text.split(",").map((part) => part.trim());
    if (text.trim() && text.trim() !== graphic.text) edit.operate(changedGraphic(graphic, isTitle ? { text: text.trim() } : { name, role: role.join(", ") }));
    close();
  };
  const key = (event: KeyboardEvent<HTMLInputElement>) => {
    event.stopPropagation();
    if (event.key === "Escape") take(null);
    else if (event.key === "Enter") take(event.currentTarget.value);
  };
  const at = { left: `${100 * box.left}%`, top: `${100 * box.top}%`, minWidth: `${Math.max(40, 100 * box.width)}%` };
  return (
    <div className="absolute inset-0 z-40">
      <input autoFocus aria-label={isTitle ? "Words of the title, here" : "Name and role, here"} defaultValue={graphic.text} maxLength={200} className="absolute rounded border border-blue bg-paper px-1 text-xs text-ink" style={at} onKeyDown={key} onBlur={(event) => take(event.currentTarget.value)} />
    </div>
  );
}
