/** Whom the show tells of what is done: this browser, people by mail, and addresses that are called. */
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, got, type Episode } from "../../api/client";
import type { SchemaTellingFields as Fields } from "../../api/schema";
import { useChange } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import { browserTells, letBrowserTell } from "../../desk/telling";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Tick } from "../../ui/fields";

const KINDS = [
  ["export", "exports"],
  ["publish", "publishing"],
  ["transcribe", "transcripts"],
  ["fetch", "takes from the host"],
  ["fetch address", "files by address"],
  ["process", "processed sound"],
] as const;

const lines = (text: string) => [...new Set(text.split(/[\s,;]+/).filter(Boolean))];

export function Telling({ episode }: { episode: Episode }) {
  const path = { params: { path: { show_id: episode.show_id } } };
  const key = ["telling", episode.show_id];
  const known = useQuery({ queryKey: key, queryFn: () => got(client.GET("/api/shows/{show_id}/telling", path)) }).data;
  const keep = useChange([key], (body: Fields) => got(client.PUT("/api/shows/{show_id}/telling", { ...path, body })));
  const tryIt = useChange([], () => got(client.POST("/api/shows/{show_id}/telling/try", path)));
  const [browser, setBrowser] = useState(browserTells);
  if (!known) return null;
  const fields: Fields = { mail: known.mail ?? [], calls: known.calls ?? [], kinds: known.kinds ?? [] };
  const told = (fields.mail?.length ?? 0) + (fields.calls?.length ?? 0);
  const list = (name: "mail" | "calls", text: string) => {
    const next = lines(text);
    if (next.join() !== (fields[name] ?? []).join()) keep.run({ ...fields, [name]: next });
  };
  return (
    <section aria-label="When it is done">
      <Heading aside={told ? `${told} told` : undefined}>When it is done</Heading>
      <label className="flex items-center gap-1.5">
        <Tick checked={browser} onChange={(on) => void letBrowserTell(on).then(setBrowser, failed)} /> this browser shows a notice
      </label>
      <details className="mt-1">
        <summary className="cursor-pointer text-soft hover:text-ink">Mail and calls to other programs</summary>
        <div className="mt-1.5 space-y-1.5">
          {known.can_mail ? (
            <label className="block text-soft">
              Mail to, one a line
              <textarea key={fields.mail?.join()} defaultValue={fields.mail?.join("\n")} rows={2} onBlur={(event) => list("mail", event.target.value)} className="mt-0.5 w-full rounded-md border border-line bg-paper px-2 py-1 text-ink" />
            </label>
          ) : (
            <Trouble>No mail can be sent: JASKEL_MAIL is not set.</Trouble>
          )}
          <label className="block text-soft">
            Call these addresses (webhooks), one a line
            <textarea key={fields.calls?.join()} defaultValue={fields.calls?.join("\n")} rows={2} placeholder="https://" onBlur={(event) => list("calls", event.target.value)} className="mt-0.5 w-full rounded-md border border-line bg-paper px-2 py-1 font-mono text-xs text-ink" />
          </label>
          <fieldset className="flex flex-wrap gap-x-3 gap-y-0.5">
            <legend className="text-soft">Tell of</legend>
            {KINDS.map(([kind, name]) => (
              <label key={kind} className="flex items-center gap-1">
                <Tick checked={fields.kinds?.includes(kind) ?? false} onChange={(on) => keep.run({ ...fields, kinds: on ? [...(fields.kinds ?? []), kind] : (fields.kinds ?? []).filter((each) => each !== kind) })} /> {name}
              </label>
            ))}
          </fieldset>
          {known.secret && (
            <p className="text-xs leading-snug break-all text-soft">
              Calls are signed with HMAC-SHA256 and the key <span className="font-mono">{known.secret}</span>
            </p>
          )}
          <div className="flex items-center gap-3">
            <Button why={!told && "Nobody is told yet"} onClick={() => tryIt.run(undefined, () => desk().say("Told everybody"))}>
              Try it
            </Button>
            {known.mailbox && (
              <a href={known.mailbox} target="_blank" rel="noreferrer" className="text-xs underline underline-offset-2 hover:text-blue">
                What the mailbox has
              </a>
            )}
          </div>
        </div>
      </details>
    </section>
  );
}
