/** What the ways in have in common. */
import { Dialog } from "radix-ui";
import { useEffect, useId, useState, type FormEvent, type ReactNode } from "react";
import { Button, Trouble } from "../../ui/controls";
import { Said } from "../Said";

/** A page with one thing to do, in the middle of the window. */
export function Entrance({ title, children }: { title: string; children: ReactNode }) {
  useEffect(() => {
    document.title = `${title} – Jaskel`;
  }, [title]);
  return (
    <div className="flex h-full flex-col">
      <header className="bar flex h-12 items-center bg-bar px-3.5 font-serif text-base font-semibold tracking-wide text-bartext">Jaskel</header>
      <main className="grid flex-1 place-items-center overflow-y-auto bg-paper p-6">
        <section aria-label={title} className="w-80 space-y-4">
          <h1 className="font-serif text-2xl font-semibold">{title}</h1>
          {children}
        </section>
      </main>
      <Said />
    </div>
  );
}

interface FormDialogProps {
  title: string;
  trouble: string;
  busy: boolean;
  verb?: string;
  onSubmit: (event: FormEvent<HTMLFormElement>) => void;
  done: () => void;
  children: ReactNode;
}

/** A form about one's account, before the page. */
export function FormDialog({ title, trouble, busy, verb = "Save", onSubmit, done, children }: FormDialogProps) {
  return (
    <Dialog.Root open onOpenChange={done}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content aria-describedby={undefined} className="fixed top-1/2 left-1/2 z-50 max-h-[94vh] w-96 max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl bg-paper p-6 text-ink shadow-xl">
          <Dialog.Title className="mb-3 font-serif text-xl font-semibold">{title}</Dialog.Title>
          <form onSubmit={onSubmit} className="space-y-3">
            {children}
            {trouble && <Trouble>{trouble}</Trouble>}
            <div className="flex gap-1.5">
              <Button type="submit" look="strong" disabled={busy}>
                {verb}
              </Button>
              <Button onClick={done}>Cancel</Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface FieldProps {
  label: string;
  name: string;
  type?: "text" | "email" | "password";
  autoComplete?: string;
  about?: string;
  least?: number;
  focus?: boolean;
  figures?: boolean;
}

/** A field with its label above it; a password can be shown while it is typed. */
export function Field({ label, name, type = "text", autoComplete, about, least, focus, figures }: FieldProps) {
  const [shown, setShown] = useState(false);
  const id = useId();
  return (
    <div className="space-y-1">
      <span className="flex justify-between text-soft">
        <label htmlFor={id}>{label}</label>
        {type === "password" && (
          <button type="button" aria-pressed={shown} className="text-xs underline hover:text-ink" onClick={() => setShown(!shown)}>
            {shown ? "Hide" : "Show"}
            <span className="sr-only"> {label}</span>
          </button>
        )}
      </span>
      <input id={id} name={name} type={shown ? "text" : type} inputMode={figures ? "numeric" : undefined} required minLength={least} autoFocus={focus} autoComplete={autoComplete} maxLength={254} className="w-full rounded-md border border-line bg-paper px-2.5 py-1.5 text-ink" />
      {about && <span className="block text-xs leading-snug text-soft">{about}</span>}
    </div>
  );
}

/** The figures that an authenticator app shows. */
export const CodeField = ({ focus }: { focus?: boolean }) => (
  <Field label="Six figures of the app" name="code" autoComplete="one-time-code" figures focus={focus} />
);

export const PASSWORD = "At least 12 characters. A few words in a row that do not belong together are good.";

/** What was typed into the fields of a form, by their names. */
export function typed(event: FormEvent<HTMLFormElement>): Record<string, string> {
  event.preventDefault();
  return Object.fromEntries([...new FormData(event.currentTarget)].map(([name, value]) => [name, String(value)]));
}

/** The secret of a link: it stands after the #, and is taken out of the address once it is read. */
export const secret = () => window.location.hash.slice(1);
