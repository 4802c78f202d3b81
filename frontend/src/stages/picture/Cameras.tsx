/** What is set for cameras: where one looks in this shot, the levels of its picture, and what of it must not be seen. */
import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { client, got, type Head, type Voice } from "../../api/client";
import type { SchemaCameraOut as Camera, SchemaGradeField as Grade } from "../../api/schema";
import { failed } from "../../desk/desk";
import { usePlace } from "../../desk/place";
import type { Edit } from "../../page/edit";
import type { Shot } from "../../page/shots";
import { player } from "../../player/player";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick, Tick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Gaze } from "./Gaze";
import { useLooking } from "./looking";

interface CamerasProps {
  head: Head;
  shot: Shot | undefined;
  voices: ReadonlyMap<string, Voice>;
  /** What is meant: the words that are selected, else the shot. */
  range: { begin: number; end: number } | null;
  edit: Edit;
  reveal: (laid: number) => void;
}

export function Cameras({ head, shot, range, voices, edit, reveal }: CamerasProps) {
  const selection = usePlace((state) => state.selection);
  const cursor = usePlace((state) => state.cursor);
  const { drawing, face, form, follows } = useLooking();
  /** Cameras that see several have nobody's name; voices with a camera of their own need no face in another. */
  const shared = head.cameras.find((each) => !each.voice && each.looked);
  const without = [...voices.values()].filter((voice) => !head.cameras.some((each) => each.voice === voice.id));
  useEffect(() => () => useLooking.setState({ drawing: false, face: null }), []);
  const shown = head.cameras.find((each) => shot?.voices.length && each.voice === shot.voices[0]) ?? head.cameras[0];
  const aim = head.aims.find((each) => each.camera === shown?.recording && each.begin <= cursor && cursor < each.end);
  const look = (next: Partial<{ x: number; y: number; closer: number; follows: boolean }> | null) => {
    if (!range || !shown) return;
    const { x = 0.5, y = 0.5, closer = 1, follows = true } = aim ?? {};
    edit.operate({ kind: "aim", ranges: [range], camera: shown.recording, aim: next && { x, y, closer, follows, ...next } });
  };
  if (!shown) return null;
  return (
    <section aria-label="Camera">
      <Heading>Where the camera looks</Heading>
      <p className="leading-snug text-soft">Drag the picture on the monitor: for {selection ? "the words that are selected" : "this shot"}.</p>
      <div className="mt-1 space-y-1">
        <Line label="closer, times">
          <NumberField label="How many times closer the camera looks" unit="×" least={1} most={4} step={0.1} digits={2} value={aim?.closer ?? 1} className="w-14" onChange={(closer) => look({ closer })} />
        </Line>
        <label className="flex items-center justify-between gap-2 text-soft">
          follows the face from there <Tick checked={aim?.follows ?? true} onChange={(next) => look({ follows: next })} />
        </label>
        <Button look="quiet" why={!aim && "Nobody set it here"} onClick={() => look(null)}>
          As it looks by itself
        </Button>
      </div>
      {shared && without.length > 1 && (
        <>
          <Heading>Whose face is whose</Heading>
          <div role="group" aria-label="Whose face is whose" className="flex flex-wrap gap-1">
            {without.map((voice) => {
              const known = head.faces.some((each) => each.voice === voice.id && each.camera === shared.recording);
              return (
                <Button key={voice.id} aria-pressed={face === voice.id} look={face === voice.id ? "strong" : "plain"} hint={known ? "Known; press and click another, or press twice to forget it" : "Press, then click the face on the monitor"} onClick={() => (face === voice.id && known ? (useLooking.setState({ face: null }), edit.operate({ kind: "face of", camera: shared.recording, voice: voice.id, at: cursor, point: null })) : useLooking.setState({ face: face === voice.id ? null : voice.id, drawing: false }))}>
                  {face === voice.id ? `Click ${voice.shown} on the monitor` : `${voice.shown}${known ? " ✓" : ""}`}
                </Button>
              );
            })}
          </div>
        </>
      )}
      <Heading>Not to be seen</Heading>
      <div className="flex flex-wrap items-center gap-1.5">
        <Button aria-pressed={drawing} look={drawing ? "strong" : "plain"} why={!range && "Nothing is seen here"} onClick={() => useLooking.setState({ drawing: !drawing })}>
          {drawing ? "Draw on the monitor …" : "Draw round it"}
        </Button>
        <Pick
          label="How it is covered"
          value={form}
          options={
            [
              ["blur", "blurred"],
              ["pixels", "in squares"],
              ["solid", "covered"],
            ] as const
          }
          onChange={(next) => useLooking.setState({ form: next })}
        />
        <label className="flex items-center gap-1.5 text-soft">
          <Tick checked={follows} onChange={(next) => useLooking.setState({ follows: next })} /> followed
        </label>
      </div>
      {head.covers.length > 0 && (
        <ul aria-label="What is covered" className="mt-1.5 overflow-hidden rounded-md border border-line bg-paper">
          {head.covers.map((each) => (
            <li key={`${each.id} ${each.begin}`} className="flex items-center gap-1.5 border-b border-line px-2 py-1 last:border-0">
              <button
                type="button"
                className="min-w-0 flex-1 truncate text-left hover:text-blue"
                title="Show it there"
                onClick={() => {
                  player.seek(each.begin);
                  reveal(each.begin);
                }}
              >
                {{ blur: "blurred", pixels: "in squares", solid: "covered" }[each.form]} <span className="text-soft">{head.cameras.find((camera) => camera.recording === each.camera)?.name}</span>
              </button>
              <Button look="quiet" className="!px-1" aria-label="Take this cover off" onClick={() => edit.operate({ kind: "cover off", id: each.id })}>
                <Trash2 size={13} />
              </Button>
            </li>
          ))}
        </ul>
      )}
      <Gaze key={shown.recording} {...{ head, edit, reveal }} camera={shown} />
      <Heading>Levels of picture</Heading>
      {head.cameras.map((camera) => (
        <Levels key={camera.recording} camera={camera} others={head.cameras.filter((each) => each !== camera)} edit={edit} />
      ))}
    </section>
  );
}

const LEVELS = [
  ["exposure", "exposure", "stops", -3, 3, 0.1, 2],
  ["warmth", "warmer", "", -100, 100, 5, 0],
  ["tint", "more magenta", "", -100, 100, 5, 0],
  ["saturation", "saturation", "%", 0, 300, 5, 0],
  ["contrast", "contrast", "%", 30, 300, 5, 0],
] as const;

const AS_FILMED: Grade = { exposure: 0, warmth: 0, tint: 0, saturation: 100, contrast: 100 };

function Levels({ camera, others, edit }: { camera: Camera; others: readonly Camera[]; edit: Edit }) {
  const [open, setOpen] = useState(false);
  const { recording, name, grade } = camera;
  const put = (next: Grade) => edit.operate({ kind: "levels of picture", camera: recording, grade: next });
  const changed = LEVELS.some(([key]) => grade[key] !== AS_FILMED[key]);
  const match = (to: string) => void got(client.GET("/api/recordings/{recording_id}/match", { params: { path: { recording_id: recording }, query: { to } } })).then(put, failed);
  return (
    <div className="border-b border-line py-0.5 last:border-0">
      <button type="button" aria-expanded={open} className="w-full truncate text-left hover:text-blue" onClick={() => setOpen(!open)}>
        {name} <span className="text-soft">{changed ? "changed" : "as filmed"}</span>
      </button>
      {open && (
        <div className="space-y-1 py-1">
          {LEVELS.map(([key, label, unit, least, most, step, digits]) => (
            <Line key={key} label={label}>
              <NumberField label={`${name}: ${label}`} {...{ unit, least, most, step, digits }} value={grade[key]} className="w-14" onChange={(value) => put({ ...grade, [key]: value })} />
            </Line>
          ))}
          <div className="flex flex-wrap gap-1.5">
            {others.map((other) => (
              <Button key={other.recording} hint="By light and colour, faces counting most" onClick={() => match(other.recording)}>
                Match to {other.name}
              </Button>
            ))}
            <Button look="quiet" why={!changed && "It is as filmed"} onClick={() => put(AS_FILMED)}>
              As filmed
            </Button>
          </div>
        </div>
      )}
    </div>
  );
}
