/** A line said again: borrowed from elsewhere, recorded here, or spoken by a machine for somebody who agreed to it. */
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Circle, Play, Square, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { client, got, type Head, type PageWords } from "../../api/client";
import type { SchemaSpotOut } from "../../api/schema";
import { RATE } from "../../api/time";
import { change } from "../../desk/change";
import { usePlace } from "../../desk/place";
import type { BenchProps } from "../../page/stage";
import { selected } from "../../page/tokens";
import { Button, Choice, Heading, Trouble } from "../../ui/controls";
import { TextField } from "../../ui/fields";
import { keyOf, lineOf, useAgain, type Line, type Offer, type Spot } from "./again";
import { useLineRecorder } from "./lineRecorder";

type Props = BenchProps & { head: Head; page: PageWords };

const WAYS = [
  ["borrow", "Borrow"],
  ["record", "Record"],
  ["machine", "Machine"],
] as const;
type Way = (typeof WAYS)[number][0];

const PICKUPS = ["pickups"] as const;

export function SayAgain(props: Props) {
  const picked = selected(props.tokens.list, usePlace((state) => state.selection));
  const begin = picked?.[0];
  const end = picked?.[1];
  return (
    <>
      <Heading>Say it again</Heading>
      {begin === undefined || end === undefined ? (
        <p className="leading-snug text-soft">Select words that went wrong: borrow them from elsewhere in the show, record them anew, or have them spoken.</p>
      ) : (
        <AtSpot key={`${begin} ${end}`} {...props} spot={{ edition: props.head.id, begin: Math.round(begin), end: Math.round(end) }} />
      )}
    </>
  );
}

function AtSpot({ episode, head, voices, edit, spot }: Props & { spot: Spot }) {
  const [text, setText] = useState<string | null>(null);
  const [way, setWay] = useState<Way>("borrow");
  const asked = text ?? "";
  const found = useQuery({
    queryKey: [...PICKUPS, head.id, head.revision, spot.begin, spot.end, asked],
    queryFn: () => got(client.GET("/api/editions/{edition_id}/pickups", { params: { path: { edition_id: head.id }, query: { begin: spot.begin, end: spot.end, text: asked } } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const known = found.data;
  const offers = offersOf(known);
  const use = (line: Line) => edit.operate({ kind: "pickup", begin: spot.begin, end: spot.end, recording: line.recording });
  useEffect(() => useAgain.getState().offer(spot, offers, use));
  useEffect(() => () => useAgain.getState().offer(null, []), []);
  const job = episode.jobs.findLast((each) => each.kind === "pickup");
  const failed = job?.state === "failed" ? job.id : "";
  useEffect(() => {
    if (failed) useAgain.getState().stop();
  }, [failed]);
  if (found.error) return <p className="leading-snug text-soft">{found.error.message}</p>;
  if (!known) return <p className="text-soft">Looking …</p>;
  const voice = known.voice ? voices.get(known.voice) : undefined;
  const line = (text ?? known.was).trim();
  return (
    <>
      <TextField label="What should be said" value={text ?? known.was} onChange={setText} className="w-full font-serif" />
      <div className="mt-1.5">
        <Choice label="How it is said again" value={way} options={WAYS} onChange={setWay} />
      </div>
      {way === "borrow" && <Borrow {...{ known, offers, who: voice?.shown ?? "This voice" }} />}
      {way === "record" && <Record {...{ spot, line }} />}
      {way === "machine" && <Machine {...{ head, spot, known, line, who: voice?.shown }} />}
      {job?.state === "failed" && <Trouble>{job.trouble}</Trouble>}
      {(job?.state === "queued" || job?.state === "running") && (
        <p role="status" className="mt-1.5 text-soft">
          Making the line …
        </p>
      )}
      {known.made.length > 0 && (
        <ul aria-label="Lines made for these words" className="mt-2 overflow-hidden rounded-md border border-line bg-paper">
          {known.made.map((each) => (
            <MadeLine key={each.recording} {...{ line: each, edit, use }} />
          ))}
        </ul>
      )}
    </>
  );
}

/** All that can be heard in the place: the same words elsewhere, and lines that came about otherwise. */
function offersOf(known: SchemaSpotOut | undefined): Offer[] {
  if (!known) return [];
  const elsewhere = known.candidates.map((candidate) => ({ key: keyOf(candidate), candidate, line: lineOf(known.made, candidate) }));
  const others = known.made.filter((line) => !elsewhere.some((each) => each.line === line));
  return [...elsewhere, ...others.map((line) => ({ key: line.recording, line }))];
}

function Borrow({ known, offers, who }: { known: SchemaSpotOut; offers: readonly Offer[]; who: string }) {
  const { key, state, hear, use, stop } = useAgain();
  if (!known.candidates.length) return <p className="mt-1.5 leading-snug text-soft">{who} does not say these words anywhere else in the show. Change the words above, or record them.</p>;
  return (
    <>
      <p className="mt-1.5 leading-snug text-soft">Said elsewhere by the same voice, the best fit first. G hears the next one in its place.</p>
      <ul aria-label="The same words elsewhere" className="mt-1 overflow-hidden rounded-md border border-line bg-paper">
        {offers.flatMap((offer) => {
          const { candidate } = offer;
          if (!candidate) return [];
          const busy = key === offer.key && state !== "still";
          const told = `${candidate.before} ${candidate.words} ${candidate.after}`;
          return (
            <li key={offer.key} className="border-b border-line px-2 py-1 last:border-0">
              <div className="flex items-start gap-1.5">
                <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Hear in its place: ${told}`} onClick={() => (busy ? stop() : void hear(offer))}>
                  {busy ? <Square size={13} /> : <Play size={13} />}
                </Button>
                <p className="min-w-0 flex-1 font-serif leading-snug">
                  <span className="text-soft">{candidate.before} </span>
                  {candidate.words}
                  <span className="text-soft"> {candidate.after}</span>
                </p>
                <Button className="!px-1.5 !py-0.5 text-xs" aria-label={`Use: ${told}`} onClick={() => void use(offer)}>
                  Use
                </Button>
              </div>
              <p className="text-xs leading-snug text-soft">
                <span className="font-mono">{Math.round(candidate.fit * 100)} %</span> · {candidate.episode}
                {candidate.why.length > 0 && ` · ${candidate.why.join(", ")}`}
              </p>
            </li>
          );
        })}
      </ul>
    </>
  );
}

function Record({ spot, line }: { spot: Spot; line: string }) {
  const { state, trouble, begin, stop } = useLineRecorder();
  return (
    <div className="mt-1.5">
      <p className="mb-1.5 leading-snug text-soft">You hear what comes before, then it is your turn. Wear headphones. Record as many takes as you like; each is fitted to its neighbours.</p>
      {state === "still" || state === "storing" ? (
        <Button look="strong" why={!line && "Write what will be said first"} onClick={() => void begin(spot, line)}>
          <Circle size={13} /> {state === "storing" ? "Storing …" : "Record here"}
        </Button>
      ) : (
        <Button look="strong" onClick={stop}>
          <Square size={13} /> {state === "leading in" ? "Cancel" : "Stop"}
        </Button>
      )}
      {state !== "still" && state !== "storing" && <span className="ml-2">{state === "leading in" ? "listen …" : "speak now"}</span>}
      {trouble && (
        <p role="alert" className="mt-1 leading-snug text-red">
          {trouble}
        </p>
      )}
    </div>
  );
}

interface MachineProps {
  head: Head;
  spot: Spot;
  known: SchemaSpotOut;
  line: string;
  who: string | undefined;
}

function Machine({ head, spot, known, line, who }: MachineProps) {
  const { voice, consent, machine } = known;
  const store = (spoken: boolean) =>
    change([PICKUPS], () =>
      got(client.PUT("/api/voices/{voice_id}/consent", { params: { path: { voice_id: voice ?? "" } }, body: { name: who ?? "", edition_id: spoken ? head.id : null, begin: spoken ? spot.begin : 0, end: spoken ? spot.end : 0 } })),
    );
  const withdraw = () => change([PICKUPS], () => got(client.DELETE("/api/voices/{voice_id}/consent", { params: { path: { voice_id: voice ?? "" } } })));
  const speak = () => change([], () => got(client.POST("/api/editions/{edition_id}/pickups", { params: { path: { edition_id: head.id } }, body: { begin: spot.begin, end: spot.end, how: "spoken", text: line, recording: null, source_start: 0, source_end: 0 } })));
  const why = !voice || !who ? "Name the voice first" : !machine.speaks ? `${machine.name} does not speak this language` : !consent ? `${who} has not agreed to it` : !line && "Write what is to be said first";
  return (
    <div className="mt-1.5 space-y-1.5">
      <p className="leading-snug text-soft">
        {machine.name}: {machine.about}
      </p>
      {consent ? (
        <p className="leading-snug">
          {consent.name} agreed on {consent.date}
          {consent.how === "spoken" ? `, in the words “${consent.words}”` : ""}.{" "}
          <Button look="quiet" className="!px-1 !py-0 text-xs" onClick={() => void withdraw()}>
            Withdraw
          </Button>
        </p>
      ) : (
        voice &&
        who && (
          <div className="rounded-md border border-line bg-paper px-2 py-1.5">
            <p className="mb-1.5 leading-snug">A machine speaks for {who} only with their consent. It is stored with the voice, with its date.</p>
            <div className="flex flex-wrap gap-1.5">
              <Button className="!py-0.5 text-xs" hint="You have asked, and the answer was yes" onClick={() => void store(false)}>
                {who} has agreed
              </Button>
              <Button className="!py-0.5 text-xs" hint="The words that are selected are those in which they agree" onClick={() => void store(true)}>
                These words say so
              </Button>
            </div>
          </div>
        )
      )}
      <Button look="strong" why={why} onClick={() => void speak()}>
        Speak the line
      </Button>
    </div>
  );
}

const HOW = { borrowed: "borrowed", recorded: "recorded", spoken: "spoken by a machine" } as const;

function MadeLine({ line, edit, use }: { line: Line; edit: Props["edit"]; use: (line: Line) => void }) {
  const { key, state, hear, stop } = useAgain();
  const mine = useAgain((again) => again.offers.find((each) => each.line?.recording === line.recording));
  const busy = mine && key === mine.key && state === "playing";
  const remove = () => change([PICKUPS], () => got(client.DELETE("/api/recordings/{recording_id}", { params: { path: { recording_id: line.recording }, query: { from_page: false } } })));
  return (
    <li className="flex items-center gap-1.5 border-b border-line px-2 py-1 last:border-0">
      <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Hear the line in its place: ${line.text}, ${HOW[line.how]}`} onClick={() => (busy ? stop() : mine && void hear(mine))}>
        {busy ? <Square size={13} /> : <Play size={13} />}
      </Button>
      <p className="min-w-0 flex-1 leading-snug">
        <span className="font-serif">{line.text}</span>
        <span className="block text-xs text-soft">
          {HOW[line.how]}, {(line.length / RATE).toFixed(1)} s{line.on_page && ", on the page"}
        </span>
      </p>
      {line.on_page ? (
        <Button className="!px-1.5 !py-0.5 text-xs" hint="What was said before comes back" onClick={() => edit.operate({ kind: "pickup off", recording: line.recording })}>
          Put back
        </Button>
      ) : (
        <>
          <Button className="!px-1.5 !py-0.5 text-xs" aria-label={`Use the line: ${line.text}, ${HOW[line.how]}`} onClick={() => use(line)}>
            Use
          </Button>
          <Button look="quiet" className="!px-1 !py-0.5" aria-label={`Delete the line: ${line.text}, ${HOW[line.how]}`} onClick={() => void remove()}>
            <Trash2 size={13} />
          </Button>
        </>
      )}
    </li>
  );
}
