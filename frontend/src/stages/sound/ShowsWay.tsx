/** How the show sounds: kept from this edition, or given to it. */
import { author } from "../../api/author";
import { client, got, type Episode, type Head } from "../../api/client";
import { keys } from "../../api/queries";
import { change } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Button, Heading } from "../../ui/controls";
import { useWay, wayKey } from "./queries";

export function ShowsWay({ episode, head }: { episode: Episode; head: Head }) {
  const way = useWay(episode.show_id).data;
  const params = { path: { edition_id: head.id } };
  const keep = async () => {
    if (await change([wayKey(episode.show_id)], () => got(client.PUT("/api/editions/{edition_id}/sound", { params })))) desk().say("The show sounds like this from now on: the next episode can take it over");
  };
  const give = () =>
    change([keys.head(head.id), keys.episode(episode.id)], () => got(client.POST("/api/editions/{edition_id}/sound", { params, body: { revision: head.revision, ...author() } })), { text: "It sounds as the show does", undo: "step" });
  const kept = way && (way.voices.length || way.target !== null || way.beds);
  const told = way && [way.voices.length && `${way.voices.length} ${way.voices.length > 1 ? "voices" : "voice"}`, way.target !== null && `${way.target} LUFS`, way.beds && `${way.beds} ${way.beds > 1 ? "pieces" : "piece"} of music`].filter(Boolean).join(", ");
  return (
    <>
      <Heading aside={kept ? told : undefined}>The show’s way</Heading>
      <div className="flex flex-wrap gap-1.5">
        <Button look="strong" why={!kept && "The show has not kept anything yet: keep how an episode sounds first"} hint="Chains by voice, loudness, opening and ending, as one step" onClick={() => void give()}>
          As last time
        </Button>
        <Button hint="Chains of the voices, loudness, and music at both ends, for all episodes to come" onClick={() => void keep()}>
          Keep how this sounds
        </Button>
      </div>
    </>
  );
}
