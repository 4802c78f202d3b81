import { useShallow } from "zustand/react/shallow";
import { useDesk } from "../desk/desk";
import { Choice } from "../ui/controls";
import { Tick } from "../ui/fields";

/** How much is shown on a line, and whether edges snap. */
export function FineControls() {
  const { scale, snapping, set } = useDesk(useShallow(({ scale, snapping, set }) => ({ scale, snapping, set })));
  return (
    <>
      <Choice
        label="Seconds on a line"
        value={String(scale)}
        options={[
          ["1.5", "1.5 s"],
          ["3", "3 s"],
          ["6", "6 s"],
          ["12", "12 s"],
          ["24", "24 s"],
        ]}
        onChange={(next) => set({ scale: Number(next) })}
      />
      <label className="flex items-center gap-1" title="Edges stop at words and quiet places (Shift+S; Ctrl while dragging: not)">
        <Tick checked={snapping} onChange={(checked) => set({ snapping: checked })} /> snap
      </label>
    </>
  );
}
