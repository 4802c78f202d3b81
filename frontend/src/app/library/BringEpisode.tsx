/** Brings in an episode that was written as one archive elsewhere. */
import { PackageOpen } from "lucide-react";
import { useRef } from "react";
import { useLocation } from "wouter";
import { asItIs, client, got } from "../../api/client";
import { keys } from "../../api/queries";
import { useChange } from "../../desk/change";
import { Button } from "../../ui/controls";

const send = (file: File) => got(client.POST("/api/archives", { params: { query: { name: file.name } }, ...asItIs(file) }));

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
