/** Parts of the library: menus, and fields to name something in place. */
import { MoreHorizontal } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState, type FormEvent, type ReactNode } from "react";
import { Button } from "../../ui/controls";
import { TextField } from "../../ui/fields";


export function Menu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger aria-label={label} className="rounded-md p-1.5 text-soft hover:text-ink">
        <MoreHorizontal size={16} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={4} className="z-40 min-w-48 rounded-lg border border-line bg-paper p-1 text-ink shadow-lg">
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

export function Item({ onSelect, children }: { onSelect: () => void; children: ReactNode }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className="cursor-pointer rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-pick">
      {children}
    </DropdownMenu.Item>
  );
}

interface RenamingProps {
  label: string;
  value: string;
  options?: readonly string[];
  /** Gets the new text, or nothing where it was given up. */
  done: (text?: string) => void;
}

export function Renaming({ label, value, options = [], done }: RenamingProps) {
  const submit = (event: FormEvent<HTMLFormElement>) => {
    event.preventDefault();
    done(String(new FormData(event.currentTarget).get("text")).trim());
  };
  return (
    <form onSubmit={submit} className="flex flex-1 gap-2 py-1">
      {/* The menu gives the focus back to its button as it closes; the field takes it after that. */}
      <TextField
        label={label}
        name="text"
        ref={(field) => void setTimeout(() => field?.focus(), 50)}
        defaultValue={value}
        maxLength={200}
        list={`${label} options`}
        onKeyDown={(event) => event.key === "Escape" && done()}
        className="flex-1"
      />
      <datalist id={`${label} options`}>
        {options.map((option) => (
          <option key={option} value={option} />
        ))}
      </datalist>
      <Button type="submit">Done</Button>
    </form>
  );
}

interface NameFormProps {
  label: string;
  button: string;
  make: (name: string) => void;
  busy: boolean;
}

export function NameForm({ label, button, make, busy }: NameFormProps) {
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (!name.trim()) return;
    make(name.trim());
    setName("");
  };
  return (
    <form onSubmit={submit} className="flex gap-2">
      <TextField label={label} value={name} onChange={setName} maxLength={200} placeholder={label} className="w-60" />
      <Button type="submit" disabled={busy || !name.trim()}>
        {button}
      </Button>
    </form>
  );
}
