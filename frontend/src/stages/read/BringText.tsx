import { FileText } from "lucide-react";
import { useRef, useState } from "react";
import { asItIs, client, got, queryClient, type BroughtText, type Episode, type Recording } from "../../api/client";
import { keys } from "../../api/queries";
import { clock } from "../../api/time";
import { tellDone, useEpisodeChange, useWork } from "../../desk/change";
import { Button, Trouble } from "../../ui/controls";
import { Working } from "../../ui/Working";

/** Bring a script, an old transcript or captions to a recording: shown as it was understood before it is taken. */
export function BringText({ episode, recording }: { episode: Episode; recording: Recording }) {
  const input = useRef<HTMLInputElement>(null);
  const [trouble, setTrouble] = useState("");
  const bring = async (file: File | undefined) => {
    if (!file) return;
    setTrouble("");
    try {
      await got(client.POST("/api/recordings/{recording_id}/texts", { params: { path: { recording_id: recording.id }, query: { name: file.name } }, ...asItIs(file) }));
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
    }
    void queryClient.invalidateQueries({ queryKey: keys.episode(episode.id) });
  };
  return (
    <div className="space-y-1.5">
      <input
        ref={input}
        type="file"
        hidden
        accept=".txt,.md,.markdown,.srt,.vtt,.ttml,.xml,text/*"
        aria-label={`Text for ${recording.name}`}
        onChange={(event) => {
          void bring(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <Button look="quiet" className="!px-1" onClick={() => input.current?.click()}>
        <FileText size={14} /> Bring a text
      </Button>
      {trouble && <Trouble>{trouble}</Trouble>}
      {episode.texts
        .filter((text) => text.recording === recording.id)
        .map((text) => (
          <TextCard key={text.id} episode={episode} recording={recording} text={text} />
        ))}
    </div>
  );
}

function TextCard({ episode, recording, text }: { episode: Episode; recording: Recording; text: BroughtText }) {
  const work = useWork(episode.id);
  const params = { path: { text_id: text.id } };
  const take = useEpisodeChange(episode.id, (how: { own_times?: boolean; guides?: boolean }) =>
    got(client.POST("/api/texts/{text_id}/take", { params, body: { own_times: false, guides: false, ...how } })),
  );
  const remove = useEpisodeChange(episode.id, () => got(client.DELETE("/api/texts/{text_id}", { params })));
  const back = () => got(client.POST("/api/texts/{text_id}/restore", { params }));
  const job = episode.jobs.find((each) => each.kind === "bring" && each.subject === text.id && each.state !== "failed");
  return (
    <section aria-label={text.name} className="space-y-1.5 rounded border border-line px-2 py-1.5">
      <p className="leading-snug">
        <b className="font-semibold">{text.name}</b>{" "}
        <span className="text-soft">
          {text.form}, {text.words.toLocaleString("en")} words
          {text.voices.length > 0 && `, voices ${text.voices.join(", ")}`}
          {text.timed && ", with times"}
        </span>
      </p>
      {text.state === "seen" && <p className="line-clamp-2 font-serif text-soft">{text.excerpt} …</p>}
      {text.state === "fitting" && <Working job={job} total={recording.length} verb="Fitting it to the sound" onStop={work.stop} />}
      {text.state === "failed" && <Trouble>{text.trouble}</Trouble>}
      {text.state === "taken" && <Comparison text={text} />}
      {text.state === "guided" && (
        <p className="leading-snug text-green">
          {text.changed ? `It put ${text.changed.toLocaleString("en")} ${text.changed === 1 ? "word" : "words"} right.` : "It found nothing to put right."}
        </p>
      )}
      <div className="flex flex-wrap gap-1.5">
        {(text.state === "seen" || text.state === "failed") && (
          <Button look="strong" hint="Its words, fitted to the sound; undo brings the old ones back" onClick={() => take.run({})}>
            Make it the transcript
          </Button>
        )}
        {(text.state === "seen" || text.state === "failed") && (
          <Button hint="What is recognised stays; names and words are spelt as in the text where they sound alike" onClick={() => take.run({ guides: true })}>
            Let it guide
          </Button>
        )}
        {text.state === "seen" && text.timed && (
          <Button hint="For languages that are not recognised here" onClick={() => take.run({ own_times: true })}>
            Keep its times
          </Button>
        )}
        {text.state !== "fitting" && <Button onClick={() => remove.run(undefined, () => tellDone({ text: `Removed ${text.name}`, undo: back }, [keys.episode(episode.id)]))}>Remove text</Button>}
      </div>
    </section>
  );
}

/** What was not said, and what was said besides. */
function Comparison({ text }: { text: BroughtText }) {
  return (
    <div className="space-y-1 leading-snug">
      <p className="text-green">It is the transcript now: {Math.round((text.share ?? 1) * 100)} % was heard word for word.</p>
      {text.unspoken.length > 0 && (
        <details>
          <summary className="cursor-pointer">
            {text.unspoken.length} {text.unspoken.length === 1 ? "stretch was" : "stretches were"} never said
          </summary>
          {text.unspoken.map((words) => (
            <p key={words} className="mt-1 font-serif text-soft line-through decoration-red">
              {words}
            </p>
          ))}
        </details>
      )}
      {text.besides.length > 0 && (
        <details>
          <summary className="cursor-pointer">{text.besides.length} words were said that are not in it</summary>
          <p className="mt-1 font-serif text-soft">
            {text.besides.slice(0, 200).map(({ text: said, at }) => (
              <span key={at} title={clock(at)}>
                {said}{" "}
              </span>
            ))}
          </p>
        </details>
      )}
    </div>
  );
}
