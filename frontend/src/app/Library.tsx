import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Moon } from "lucide-react";
import { Tooltip } from "radix-ui";
import { useEffect, useState, type FormEvent } from "react";
import { Link, useLocation } from "wouter";
import { client, got, type Show } from "../api/client";
import { keys, useShows } from "../api/queries";
import { clock } from "../api/time";
import { Button, Trouble } from "../ui/controls";
import { toggleTheme } from "../ui/theme";

export function Library() {
  const shows = useShows();
  useEffect(() => {
    document.title = "Jaskel";
  }, []);
  return (
    <Tooltip.Provider>
      <div className="flex h-full flex-col">
        <header className="bar flex h-12 items-center justify-between bg-bar px-3.5 text-bartext">
          <span className="font-serif text-base font-semibold tracking-wide">Jaskel</span>
          <Button look="bar" className="!px-2" aria-label="Light or dark" onClick={toggleTheme}>
            <Moon size={15} />
          </Button>
        </header>
        <main className="flex-1 overflow-y-auto bg-paper">
          <div className="mx-auto max-w-3xl px-6 py-8">
            {shows.isError && <Trouble>{shows.error.message}</Trouble>}
            {shows.data?.shows.length === 0 && (
              <div className="mb-8">
                <h1 className="font-serif text-3xl">Begin with a show</h1>
                <p className="mt-1 text-soft">A show is a series; each programme you make is an episode of it.</p>
              </div>
            )}
            {shows.data?.shows.map((show) => <ShowSection key={show.id} show={show} />)}
            {shows.data && <NewShow first={shows.data.shows.length === 0} />}
          </div>
        </main>
      </div>
    </Tooltip.Provider>
  );
}

function ShowSection({ show }: { show: Show }) {
  const queries = useQueryClient();
  const [, go] = useLocation();
  const make = useMutation({
    mutationFn: (title: string) =>
      got(client.POST("/api/shows/{show_id}/episodes", { params: { path: { show_id: show.id } }, body: { title } })),
    onSuccess: (episode) => {
      void queries.invalidateQueries({ queryKey: keys.shows });
      go(`/episodes/${episode.id}`);
    },
  });
  return (
    <section className="mb-9" aria-label={show.name}>
      <h2 className="font-serif text-2xl font-semibold">{show.name}</h2>
      {show.about && <p className="text-soft">{show.about}</p>}
      <ul className="my-3 divide-y divide-line border-y border-line">
        {show.episodes.map((episode) => (
          <li key={episode.id}>
            <Link href={`/episodes/${episode.id}`} className="flex items-baseline gap-3 px-1 py-2.5 hover:bg-side">
              <span className="min-w-0 flex-1 truncate font-serif text-[17px]">{episode.title}</span>
              <span className="text-soft">
                {episode.recordings === 0 ? "no recordings yet" : episode.transcribed ? "transcribed" : "not transcribed yet"}
              </span>
              <span className="w-14 text-right font-mono text-xs text-soft">{episode.length > 0 && clock(episode.length)}</span>
              <time className="w-24 text-right text-soft" dateTime={episode.changed}>
                {new Date(episode.changed).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })}
              </time>
            </Link>
          </li>
        ))}
        {show.episodes.length === 0 && <li className="px-1 py-2.5 text-soft">No episodes yet.</li>}
      </ul>
      <NameForm label="Title of the new episode" button="Make an episode" make={make.mutate} busy={make.isPending} />
      {make.isError && <Trouble>{make.error.message}</Trouble>}
    </section>
  );
}

function NewShow({ first }: { first: boolean }) {
  const queries = useQueryClient();
  const make = useMutation({
    mutationFn: (name: string) => got(client.POST("/api/shows", { body: { name, about: "" } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.shows }),
  });
  return (
    <section aria-label="New show" className={first ? "" : "border-t border-line pt-5"}>
      <NameForm label="Name of the new show" button="Make a show" make={make.mutate} busy={make.isPending} />
      {make.isError && <Trouble>{make.error.message}</Trouble>}
    </section>
  );
}

interface NameFormProps {
  label: string;
  button: string;
  make: (name: string) => void;
  busy: boolean;
}

function NameForm({ label, button, make, busy }: NameFormProps) {
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!name.trim()) return;
    make(name.trim());
    setName("");
  };
  return (
    <form onSubmit={submit} className="flex gap-2">
      <input
        value={name}
        onChange={(event) => setName(event.target.value)}
        maxLength={200}
        aria-label={label}
        placeholder={label}
        className="w-72 rounded-md border border-line bg-paper px-2.5 py-1.5 placeholder:text-soft"
      />
      <Button type="submit" disabled={busy || !name.trim()}>
        {button}
      </Button>
    </form>
  );
}
