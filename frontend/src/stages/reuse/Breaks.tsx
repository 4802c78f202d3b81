/** Breaks for advertising: silence before a word, with what is heard fading around it, and a short sound if that is wanted. */
import { X } from "lucide-react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Episode, type Head } from "../../api/client";
import { clock, RATE } from "../../api/time";
import { failed } from "../../desk/desk";
import { playhead, put } from "../../desk/place";
import type { BenchProps } from "../../page/stage";
import { Button, Heading } from "../../ui/controls";
import { Line, Pick } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";

export function Breaks({ episode, head, edit, reveal }: Pick<BenchProps, "edit" | "reveal"> & { episode: Episode; head: Head }) {
  const [seconds, setSeconds] = useState(2);
  const [fade, setFade] = useState(0.5);
  const [sting, setSting] = useState("");
  const sounds = useQuery({ queryKey: ["sounds"], queryFn: () => got(client.GET("/api/sounds")), staleTime: Infinity }).data?.sounds ?? [];
  const own = episode.recordings.filter((each) => each.kind === "music");
  const library = sounds.filter((each) => each.kind === "sting");
  const putIn = async () => {
    const at = Math.round(playhead());
    const taken = library.some((each) => each.id === sting) ? await take(episode.id, sting) : sting;
    edit.operate({ kind: "break", at, length: Math.round(seconds * RATE), fade: Math.round(fade * RATE), sting: taken });
  };
  return (
    <section aria-label="Breaks for advertising">
      <Heading aside={head.breaks.length ? `${head.breaks.length}` : undefined}>Breaks</Heading>
      {head.breaks.length > 0 && (
        <ul className="mb-1.5 divide-y divide-line rounded-md border border-line bg-paper">
          {head.breaks.map(({ id, laid, at, length }) => (
            <li key={id} className="flex items-center gap-2 px-2 py-1">
              <button type="button" className="font-mono text-xs text-soft hover:text-ink" title="Show it there" onClick={() => (put(laid), reveal(laid))}>
                {clock(at)}
              </button>
              <span className="flex-1">{(length / RATE).toFixed(1)} s</span>
              <Button look="quiet" className="!px-1.5" hint="Take the break out" aria-label={`Take out the break at ${clock(at)}`} onClick={() => edit.operate({ kind: "break off", id })}>
                <X size={13} />
              </Button>
            </li>
          ))}
        </ul>
      )}
      <div className="space-y-1">
        <Line label="silence, and fade around it">
          <span className="flex gap-1.5">
            <NumberField label="Length of the break in seconds" unit="s" least={0.5} most={30} step={0.5} digits={1} value={seconds} onChange={setSeconds} className="w-10" />
            <NumberField label="Fade around the break in seconds" unit="s" least={0} most={2} step={0.1} digits={1} value={fade} onChange={setFade} className="w-10" />
          </span>
        </Line>
        <Line label="sound">
          <Pick label="Sound of the break" value={sting} options={[["", "none"], ...own.map((each) => [each.id, each.name] as const), ...library.map((each) => [each.id, each.name] as const)]} onChange={setSting} className="w-40" />
        </Line>
        <Button hint="In the rest before the word at the playhead; found in exports among the chapters" onClick={() => void putIn().catch(failed)}>
          Put one in at the playhead
        </Button>
      </div>
    </section>
  );
}

/** Takes a sound of the library into the episode and waits until it can be heard; gives its recording. */
async function take(episode_id: string, sound: string): Promise<string> {
  const { id } = await got(client.POST("/api/episodes/{episode_id}/sounds", { params: { path: { episode_id } }, body: { sound } }));
  for (let tries = 0; tries < 60; tries++) {
    const { recordings } = await got(client.GET("/api/episodes/{episode_id}", { params: { path: { episode_id } } }));
    if (recordings.find((each) => each.id === id)?.state === "ready") break;
    await new Promise((done) => setTimeout(done, 500));
  }
  return id;
}
