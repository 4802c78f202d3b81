/** Eyes turned to the camera: by how much, how far past it they may look, and where it does not work. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Head } from "../../api/client";
import type { SchemaCameraOut as Camera, SchemaGazeField as GazeSet, SchemaNotTurnedOut as NotTurned } from "../../api/schema";
import { clock } from "../../api/time";
import type { Edit } from "../../page/edit";
import { useTimeAt } from "../../page/times";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Line } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";

interface GazeProps {
  head: Head;
  camera: Camera;
  edit: Edit;
  reveal: (laid: number) => void;
}

const WHY: Record<NotTurned["why"], string> = {
  "": "",
  nobody: "no face is seen",
  small: "the face is too small",
  closed: "the eyes are closed",
  away: "the head is turned away",
  aside: "the eyes look too far aside",
};

export function Gaze({ head, camera, edit, reveal }: GazeProps) {
  const { gaze } = camera;
  const [asked, setAsked] = useState(false);
  const set = (next: Partial<GazeSet>) => edit.operate({ kind: "gaze", camera: camera.recording, gaze: { ...gaze, ...next } });
  return (
    <section aria-label="Gaze">
      <Heading>Gaze</Heading>
      <p className="leading-snug text-soft">Turns the eyes in {camera.name} to the camera, never in a blink.</p>
      <div className="mt-1 space-y-1">
        <Line label="turned by">
          <NumberField label="Per cent by which eyes are turned to the camera" unit="%" least={0} most={100} step={10} value={gaze.amount} className="w-14" onChange={(amount) => set({ amount })} />
        </Line>
        <Line label="if they look past it by at most">
          <NumberField label="Degrees by which eyes may look past the camera" unit="°" least={5} most={20} value={gaze.within} className="w-14" onChange={(within) => set({ within })} />
        </Line>
        <Button aria-expanded={asked} onClick={() => setAsked(!asked)}>
          Where it works
        </Button>
      </div>
      {asked && <Where {...{ head, camera, reveal }} />}
    </section>
  );
}

function Where({ head, camera, reveal }: Omit<GazeProps, "edit">) {
  const timeAt = useTimeAt();
  const { recording, gaze } = camera;
  const { data, error } = useQuery({
    queryKey: ["gaze", head.id, head.revision, recording, gaze.within],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/gaze", { params: { path: { edition_id: head.id }, query: { camera: recording, amount: gaze.amount, within: gaze.within } } })),
    staleTime: Infinity,
    retry: false,
  });
  if (!data) return <p className="mt-1 text-soft">{error ? error.message : "Looking …"}</p>;
  if (!data.looked) return <p className="mt-1 text-soft">This camera is not seen in this edition.</p>;
  return (
    <div className="mt-1.5">
      <p role="status" className="leading-snug">
        {data.turned === data.looked ? `It works at all ${data.looked} places looked at.` : `It works at ${data.turned} of ${data.looked} places looked at. Not here:`}
      </p>
      {data.not_turned.length > 0 && (
        <ul aria-label="Where eyes are not turned" className="mt-1 max-h-40 overflow-y-auto rounded-md border border-line bg-paper">
          {data.not_turned.map(({ begin, why }) => (
            <li key={begin} className="border-b border-line last:border-0">
              <button
                type="button"
                className="w-full truncate px-2 py-1 text-left hover:text-blue"
                title="Show it there"
                onClick={() => {
                  player.seek(begin);
                  reveal(begin);
                }}
              >
                {clock(timeAt(begin), 1)} <span className="text-soft">{WHY[why]}</span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
