import { Circle, Mic, Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { client, got, type Episode } from "../../api/client";
import { bytes, clock, RATE } from "../../api/time";
import { keys } from "../../api/queries";
import { tellDone, useEpisodeChange } from "../../desk/change";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Pick } from "../../ui/fields";
import { close, finish, open, record, stop, useRecorder, type Source } from "./recorder";

const PICTURES: [Source, string][] = [
  ["none", "no picture"],
  ["camera", "camera"],
  ["screen", "screen"],
];

/** Record here: microphone, camera or screen, take after take. */
export function RecordPanel({ episode }: { episode: Episode }) {
  const { state, trouble, take } = useRecorder();
  const [microphones, setMicrophones] = useState<readonly MediaDeviceInfo[]>([]);
  const [microphone, setMicrophone] = useState("");
  const [picture, setPicture] = useState<Source>("none");
  useEffect(() => close, []);
  const begin = async (wanted: string, seen: Source) => {
    setMicrophone(wanted);
    setPicture(seen);
    await open(wanted, seen);
    // Names of devices are told only once one may be used.
    setMicrophones((await navigator.mediaDevices.enumerateDevices()).filter((device) => device.kind === "audioinput"));
  };
  const broken = episode.takes.filter((each) => each.id !== take && each.silent > 5);
  return (
    <section aria-label="Record">
      <Heading>Record</Heading>
      {trouble && <Trouble>{trouble}</Trouble>}
      {state === "idle" ? (
        <Button className="w-full" onClick={() => void begin("", "none")}>
          <Mic size={14} /> Open the microphone
        </Button>
      ) : (
        <div className="space-y-2">
          <div className="flex gap-1.5">
            <Pick
              label="Microphone"
              value={microphone}
              disabled={state !== "ready"}
              options={[["", "default microphone"], ...microphones.filter((each) => each.deviceId).map((each) => [each.deviceId, each.label || "Microphone"] as const)]}
              onChange={(wanted) => void begin(wanted, picture)}
              className="min-w-0 flex-1"
            />
            <Pick label="Picture" value={picture} disabled={state !== "ready"} options={PICTURES} onChange={(wanted) => void begin(microphone, wanted)} className="min-w-0 flex-1" />
          </div>
          <Preview show={picture !== "none"} />
          <Meter />
          <div className="flex items-center gap-2">
            {state === "recording" ? (
              <Button onClick={stop}>
                <Square size={13} fill="currentColor" /> Stop
              </Button>
            ) : (
              <Button look="strong" disabled={state === "storing"} onClick={() => void record(episode.id)}>
                <Circle size={13} fill="currentColor" /> Record a take
              </Button>
            )}
            <Elapsed />
            {state === "ready" && (
              <Button look="quiet" className="ml-auto" onClick={close}>
                Close
              </Button>
            )}
          </div>
        </div>
      )}
      {broken.map((each) => (
        <Broken key={each.id} episode={episode} id={each.id} name={each.name} size={each.size} />
      ))}
    </section>
  );
}

function Elapsed() {
  const { state, seconds } = useRecorder();
  if (state === "storing") return <span className="text-soft">Saving …</span>;
  return <span className="font-mono text-xs text-soft">{state === "recording" && clock(seconds * RATE)}</span>;
}

function Meter() {
  const { level, clipped } = useRecorder();
  const decibels = 20 * Math.log10(Math.max(level, 1e-4));
  return (
    <div className="flex items-center gap-2">
      <meter
        aria-label="Level"
        aria-valuetext={`${decibels.toFixed(0)} decibels`}
        min={-60}
        max={0}
        high={-6}
        value={Math.max(-60, decibels)}
        className="h-2.5 flex-1"
      />
      {/* Said when something is wrong; the level itself changes too often to be read out. */}
      <span className="w-24 text-xs text-soft">
        <span role="status">{clipped ? <b className="text-red">too loud</b> : decibels < -45 && "nothing heard"}</span>
        {!clipped && decibels >= -45 && `${decibels.toFixed(0)} dB`}
      </span>
    </div>
  );
}

function Preview({ show }: { show: boolean }) {
  const stream = useRecorder((state) => state.stream);
  const video = useRef<HTMLVideoElement>(null);
  useEffect(() => {
    if (video.current) video.current.srcObject = stream;
  }, [stream, show]);
  return show ? <video ref={video} muted autoPlay playsInline aria-label="What is recorded" className="aspect-video w-full rounded-md bg-bar object-contain" /> : null;
}

/** A take whose tab went away: what was stored of it can be used. */
function Broken({ episode, id, name, size }: { episode: Episode; id: string; name: string; size: number }) {
  const params = { path: { take_id: id } };
  const discard = useEpisodeChange(episode.id, () => got(client.DELETE("/api/takes/{take_id}", { params })));
  const back = () => got(client.POST("/api/takes/{take_id}/restore", { params }));
  return (
    <div className="mt-2 space-y-1.5 rounded-md border border-line bg-paper px-2.5 py-2">
      <p>
        <b className="font-semibold">{name}</b> <span className="text-soft">broke off; {bytes(size)} of it are kept.</span>
      </p>
      <div className="flex gap-1.5">
        <Button onClick={() => void finish(episode.id, id)}>Keep what was recorded</Button>
        <Button onClick={() => discard.run(undefined, () => tellDone({ text: `Discarded ${name}`, undo: back }, [keys.episode(episode.id)]))}>Discard</Button>
      </div>
    </div>
  );
}
