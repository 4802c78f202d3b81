/** What episodes take on the disk, and clearing what can be made again. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got } from "../../api/client";
import { keys } from "../../api/queries";
import type { SchemaEpisodeRoomOut as EpisodeRoom } from "../../api/schema";
import { bytes } from "../../api/time";
import { useChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Button, Trouble } from "../../ui/controls";

const KEY = ["room"] as const;

export function DiskUse() {
  const [open, setOpen] = useState(false);
  return (
    <section aria-label="Disk use" className="mt-9 border-t border-line pt-5">
      <details onToggle={(event) => setOpen(event.currentTarget.open)}>
        <summary className="cursor-pointer font-semibold text-soft hover:text-ink">Disk use</summary>
        {open && <Listed />}
      </details>
    </section>
  );
}

function Listed() {
  const known = useQuery({ queryKey: KEY, queryFn: () => got(client.GET("/api/room")) });
  if (known.isError) return <Trouble>{known.error.message}</Trouble>;
  if (!known.data) return <p className="mt-1 text-soft">Being added up …</p>;
  return (
    <>
      <p className="mt-1 max-w-prose text-soft">{bytes(known.data.free)} are free. What was made from originals can be cleared of episodes that rest: it is made again when one is opened.</p>
      <table className="mt-2 w-full">
        <thead>
          <tr className="text-left text-soft [&>th]:pb-1 [&>th]:font-normal">
            <th>Episode</th>
            <th className="text-right">Originals</th>
            <th className="text-right">Made from them</th>
            <th className="text-right">Exports</th>
            <th>
              <span className="sr-only">Clear</span>
            </th>
          </tr>
        </thead>
        <tbody className="divide-y divide-line">
          {known.data.episodes.map((each) => (
            <Line key={each.episode} room={each} />
          ))}
        </tbody>
      </table>
    </>
  );
}

function Line({ room }: { room: EpisodeRoom }) {
  const clear = useChange([KEY, keys.shows, keys.episode(room.episode)], () => got(client.POST("/api/episodes/{episode_id}/clear", { params: { path: { episode_id: room.episode } } })));
  const size = (value: number) => <td className="text-right font-mono text-xs">{value ? bytes(value) : "–"}</td>;
  return (
    <tr>
      <td className="py-1.5">
        <span className="font-serif text-[15px]">{room.title}</span> <span className="text-soft">{[room.show, room.deleted && "deleted", room.cleared && "cleared"].filter(Boolean).join(" · ")}</span>
      </td>
      {size(room.originals)}
      {size(room.made)}
      {size(room.exports)}
      <td className="text-right">
        <Button
          look="quiet"
          aria-label={`Clear what was made for ${room.title}`}
          why={!room.clearable && "There is nothing to clear"}
          onClick={() => clear.run(undefined, (done) => desk().say(done.bytes ? `${bytes(done.bytes)} are free now` : "Other episodes need all of it"))}
        >
          Clear
        </Button>
      </td>
    </tr>
  );
}
