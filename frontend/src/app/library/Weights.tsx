/** Weights of the recogniser: what hears which language here, how quickly, and larger ones that are added. */
import { FileArchive, FolderPlus, Trash2 } from "lucide-react";
import { useRef, useState, type ChangeEvent } from "react";
import { asItIs, client, got, queryClient, type WeightsInfo } from "../../api/client";
import { keys, useWeights } from "../../api/queries";
import { useChange } from "../../desk/change";
import { failed } from "../../desk/desk";
import { Button, Trouble } from "../../ui/controls";

const ARCHIVE = "weights.zip";
const FILES = ["model.bin", "config.json", "tokenizer.json", "vocabulary.json", "vocabulary.txt", "preprocessor_config.json"] as const;

type Named = readonly [typeof ARCHIVE | (typeof FILES)[number], File];
const names = new Intl.DisplayNames(["en"], { type: "language" });

/** The files of weights in a folder; none where it holds no weights. */
function ofFolder(files: readonly File[]): Named[] {
  const named = FILES.flatMap((name) => files.filter((file) => file.name === name).map((file): Named => [name, file]));
  return named.some(([name]) => name === "model.bin") ? named : [];
}

export function Weights() {
  const known = useWeights();
  const [sending, setSending] = useState<string | null>(null);
  const zip = useRef<HTMLInputElement>(null);
  const folder = useRef<HTMLInputElement>(null);
  const add = async (name: string, files: readonly Named[]) => {
    if (!files.length) return failed(new Error("This folder holds no weights: there is no model.bin in it."));
    setSending(name);
    try {
      const { id } = await got(client.POST("/api/weights", { body: { name } }));
      for (const [file, body] of files) {
        await got(client.PUT("/api/weights/{weights_id}/files/{file}", { params: { path: { weights_id: id, file } }, ...asItIs(body) })).catch(async (error: unknown) => {
          await client.DELETE("/api/weights/{weights_id}", { params: { path: { weights_id: id } } });
          throw error;
        });
      }
      await got(client.POST("/api/weights/{weights_id}/check", { params: { path: { weights_id: id } } }));
    } catch (error) {
      failed(error);
    }
    setSending(null);
    void queryClient.invalidateQueries({ queryKey: keys.weights });
  };
  const chosen = (event: ChangeEvent<HTMLInputElement>, of: (files: File[]) => readonly Named[]) => {
    const files = [...(event.target.files ?? [])];
    event.target.value = "";
    const first = files[0];
    if (first) void add((first.webkitRelativePath.split("/")[0] || first.name).replace(/\.zip$/i, ""), of(files));
  };
  return (
    <section aria-label="Speech recognition" className="mt-9 border-t border-line pt-5">
      <h2 className="font-semibold text-soft">Speech recognition</h2>
      <p className="mt-1 max-w-prose text-soft">
        Recordings are heard <i>quick</i>, by the weights that come with Jaskel, or <i>careful</i>, by the largest you add that know their language. Choose which under Gather.
      </p>
      {known.isError && <Trouble>{known.error.message}</Trouble>}
      <ul className="mt-2 divide-y divide-line">
        {known.data?.weights.map((each) => <Line key={each.id} weights={each} />)}
      </ul>
      <div className="mt-2 flex flex-wrap gap-2">
        <input ref={zip} type="file" accept=".zip" hidden aria-label="Zip of weights" onChange={(event) => chosen(event, ([file]) => (file ? [[ARCHIVE, file]] : []))} />
        <input
          ref={(field) => {
            folder.current = field;
            field?.setAttribute("webkitdirectory", "");
          }}
          type="file"
          hidden
          aria-label="Folder of weights"
          onChange={(event) => chosen(event, ofFolder)}
        />
        <Button disabled={sending !== null} onClick={() => zip.current?.click()}>
          <FileArchive size={14} /> Add a zip …
        </Button>
        <Button disabled={sending !== null} hint="A folder with weights in CTranslate2 form" onClick={() => folder.current?.click()}>
          <FolderPlus size={14} /> Add a folder …
        </Button>
        {sending !== null && <span className="self-center text-soft">Sending {sending} …</span>}
      </div>
    </section>
  );
}

function Line({ weights }: { weights: WeightsInfo }) {
  const remove = useChange([keys.weights], () => got(client.DELETE("/api/weights/{weights_id}", { params: { path: { weights_id: weights.id } } })));
  return (
    <li className="flex items-center gap-3 py-1.5">
      <span className="min-w-0 flex-1">
        <span className="font-serif text-[15px]">{weights.name}</span>
        <span className="block truncate text-soft" title={weights.languages.map((code) => names.of(code) ?? code).join(", ")}>
          {about(weights)}
        </span>
      </span>
      {!weights.ships && (
        <Button look="quiet" className="!px-1" aria-label={`Delete ${weights.name}`} hint="What it heard stays" disabled={remove.busy} onClick={() => remove.run()}>
          <Trash2 size={13} />
        </Button>
      )}
    </li>
  );
}

function about({ state, trouble, languages, size, speed, ships }: WeightsInfo): string {
  if (state === "failed") return trouble;
  if (state !== "ready") return "Being unpacked and tried on a known recording …";
  const heard = languages.length === 1 ? (names.of(languages[0] ?? "") ?? languages[0]) : `${languages.length} languages`;
  return [heard, `${Math.round(size / 1e6)} MB`, speed > 0 ? `${speed.toFixed(1)} s of sound heard in a second on this machine` : "not used here yet", ships && "comes with Jaskel"].filter(Boolean).join(" · ");
}
