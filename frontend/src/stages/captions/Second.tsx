/** A second language below the first: a text or captions that were brought, timed to what is said. */
import { useRef } from "react";
import { asItIs, client, got } from "../../api/client";
import { failed } from "../../desk/desk";
import type { Edit } from "../../page/edit";
import { Button, Heading } from "../../ui/controls";
import { Line, TextField } from "../../ui/fields";

interface SecondProps {
  edition: string;
  language: string;
  edit: Edit;
}

export function Second({ edition, language, edit }: SecondProps) {
  const chooser = useRef<HTMLInputElement>(null);
  const code = useRef<HTMLInputElement>(null);
  const bring = (file: File) =>
    got(
      client.POST("/api/editions/{edition_id}/second-language", {
        params: { path: { edition_id: edition }, query: { name: file.name } },
        ...asItIs(file),
      }),
    ).then(({ units }) => edit.operate({ kind: "caption second", language: code.current?.value.trim() || "und", units }), failed);
  return (
    <>
      <Heading aside={language && language !== "und" ? language : undefined}>Second language</Heading>
      <input
        ref={chooser}
        hidden
        type="file"
        aria-label="Text in the second language"
        accept=".txt,.md,.srt,.vtt,.ttml,.xml,.stl,.scc"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void bring(file);
          event.target.value = "";
        }}
      />
      <Line label="its code, say de or pt-BR">
        <TextField ref={code} label="Code of the second language" key={language} defaultValue={language === "und" ? "" : language} maxLength={20} pattern="[A-Za-z]{2,3}([\-_][A-Za-z0-9]{2,8}){0,3}" className="w-20 font-mono text-xs" />
      </Line>
      <div className="mt-1 flex flex-wrap gap-1.5">
        <Button hint="A text is timed by order and length, captions by their times" onClick={() => chooser.current?.click()}>
          Bring a text or captions …
        </Button>
        <Button why={!language && "There is none"} onClick={() => edit.operate({ kind: "caption second", language: "und", units: [] })}>
          Take off
        </Button>
      </div>
    </>
  );
}
