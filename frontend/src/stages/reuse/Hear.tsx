/** Hears a stretch of a recording by itself; one at a time. */
import { Play, Square } from "lucide-react";
import { useEffect } from "react";
import { create } from "zustand";
import { failed } from "../../desk/desk";
import { player } from "../../player/player";
import { Button } from "../../ui/controls";

const useHeard = create<{ key: string | null }>(() => ({ key: null }));
let audio: HTMLAudioElement | null = null;

function stop() {
  audio?.pause();
  audio = null;
  useHeard.setState({ key: null });
}

function play(key: string, { recording, start, end }: Stretch) {
  stop();
  player.pause();
  audio = new Audio(`/api/stretches/${recording}/sound?start=${start}&end=${end}`);
  audio.onended = stop;
  useHeard.setState({ key });
  audio.play().catch((error: unknown) => (stop(), failed(error)));
}

interface Stretch {
  recording: string;
  start: number;
  end: number;
}

export function Hear({ id, name, ...stretch }: Stretch & { id: string; name: string }) {
  const heard = useHeard((state) => state.key === id);
  useEffect(() => () => void (useHeard.getState().key === id && stop()), [id]);
  return (
    <Button className="self-start !px-1.5" look="quiet" aria-pressed={heard} aria-label={`Hear “${name}”`} onClick={() => (heard ? stop() : play(id, stretch))}>
      {heard ? <Square size={13} /> : <Play size={13} />}
    </Button>
  );
}
