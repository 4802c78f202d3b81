/** Brings in an episode that was written as one archive elsewhere. */
import { PackageOpen } from "lucide-react";
import { useRef } from "react";
import { useLocation } from "wouter";
import { Refusal, UNREACHABLE } from "../../api/client";
import { keys } from "../../api/queries";
import type { SchemaBroughtEpisodeOut as Brought } from "../../api/schema";
import { useChange } from "../../desk/change";
import { Button } from "../../ui/controls";

async function send(file: File): Promise<Brought> {
  const answer = await fetch(`/api/archives?name=${encodeURIComponent(file.name)}`, { method: "POST", body: file }).catch(() => null);
  if (!answer) throw new Refusal({ detail: UNREACHABLE, code: "unreachable" });
  if (!answer.ok) throw new Refusal((await answer.json()) as { detail: string; code: string });
  return (await answer.json()) as Brought;
}

export function BringEpisode() {
  const input = useRef<HTMLInputElement>(null);
  const [, go] = useLocation();
  const bring = useChange([keys.shows], send);
  return (
    <>
      <input
        ref={input}
        type="file"
        hidden
        accept=".zip,application/zip"
        aria-label="Archive of an episode"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) bring.run(file, ({ episode }) => go(`/episodes/${episode}`));
          event.target.value = "";
        }}
      />
      <Button hint="A whole episode that was exported elsewhere as one file" why={bring.busy && "Being brought in"} onClick={() => input.current?.click()}>
        <PackageOpen size={14} /> {bring.busy ? "Bringing the episode in …" : "Bring an episode …"}
      </Button>
    </>
  );
}
