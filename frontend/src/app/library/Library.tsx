/** Shows and episodes, search over everything that was said, and the way to begin. */
import clsx from "clsx";
import { Moon, Search } from "lucide-react";
import { Tooltip } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { client, got } from "../../api/client";
import { useMe } from "../../api/me";
import { keys, useShows } from "../../api/queries";
import { useChange } from "../../desk/change";
import { Button, Trouble } from "../../ui/controls";
import { TextField } from "../../ui/fields";
import { toggleTheme } from "../../ui/theme";
import { Said } from "../Said";
import { Account } from "../team/Account";
import { BringEpisode } from "./BringEpisode";
import { Deleted } from "./Deleted";
import { DiskUse } from "./DiskUse";
import { NameForm } from "./parts";
import { SaidAnywhere } from "./SaidAnywhere";
import { ShowSection } from "./ShowSection";
import { Start } from "./Start";
import { Weights } from "./Weights";

export function Library() {
  const shows = useShows();
  const [words, setWords] = useState("");
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => {
    document.title = "Jaskel";
    const listen = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== "f") return;
      event.preventDefault();
      field.current?.focus();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
  const keeps = useMe().data?.keeper;
  const all = shows.data?.shows ?? [];
  const here = all.filter((show) => !show.deleted);
  return (
    <Tooltip.Provider>
      <div className="flex h-full flex-col">
        <header className="bar flex h-12 items-center justify-between gap-4 bg-bar px-3.5 text-bartext">
          <span className="font-serif text-base font-semibold tracking-wide">Jaskel</span>
          <div className="flex gap-1.5">
            <Account />
            <Button look="bar" className="!px-2" aria-label="Light or dark" onClick={toggleTheme}>
              <Moon size={15} />
            </Button>
          </div>
        </header>
        <main className="flex-1 overflow-y-auto bg-paper">
          <div className="mx-auto max-w-3xl px-6 py-8">
            {all.length > 0 && <h1 className="sr-only">Shows and episodes</h1>}
            {shows.isError && <Trouble>{shows.error.message}</Trouble>}
            {all.length > 0 && (
              <label className="mb-7 flex items-center gap-2 text-soft">
                <Search size={16} aria-hidden />
                <TextField
                  label="Words that were said"
                  ref={field}
                  value={words}
                  onChange={setWords}
                  onKeyDown={(event) => event.key === "Escape" && setWords("")}
                  placeholder="Search for words that were said"
                  className="flex-1"
                />
              </label>
            )}
            {words.trim() ? (
              <SaidAnywhere words={words.trim()} />
            ) : (
              <>
                {shows.data && here.length === 0 && <Start />}
                {here.map((show) => (
                  <ShowSection key={show.id} show={show} />
                ))}
                {shows.data && <NewShow first={here.length === 0} />}
                <Deleted shows={all} />
                {keeps && <Weights />}
                <DiskUse />
              </>
            )}
          </div>
        </main>
        <Said />
      </div>
    </Tooltip.Provider>
  );
}

function NewShow({ first }: { first: boolean }) {
  const make = useChange([keys.shows], (name: string) => got(client.POST("/api/shows", { body: { name, about: "" } })));
  return (
    <section aria-label="New show" className={clsx("flex items-center justify-between gap-3", !first && "border-t border-line pt-5")}>
      <NameForm label="Name of the new show" button="Make a show" make={(name) => make.run(name)} busy={make.busy} />
      <BringEpisode />
    </section>
  );
}
