/** Who is signed in, at the right end of the bar: their password, and signing out. */
import { DropdownMenu } from "radix-ui";
import { useState, type FormEvent } from "react";
import { client, got } from "../../api/client";
import { arrived, leave, useMe } from "../../api/me";
import { useChange } from "../../desk/change";
import { desk, failed } from "../../desk/desk";
import { Field, FormDialog, PASSWORD, typed } from "./parts";
import { SecondFactor } from "./SecondFactor";

const ITEM = "cursor-pointer rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-pick";

export function Account() {
  const me = useMe().data;
  const [changing, setChanging] = useState<"password" | "second factor">();
  const close = () => setChanging(undefined);
  if (!me?.team) return null;
  return (
    <>
      <DropdownMenu.Root modal={false}>
        <DropdownMenu.Trigger className="max-w-44 truncate rounded-md border border-barline px-2.5 py-1 text-[13px] leading-5 text-bartext hover:border-barsoft">{me.name}</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={6} className="z-40 min-w-52 rounded-lg border border-line bg-paper p-1 text-ink shadow-lg">
            <DropdownMenu.Label className="px-2.5 py-1 text-xs text-soft">{me.mail}</DropdownMenu.Label>
            <DropdownMenu.Item className={ITEM} onSelect={() => setChanging("password")}>
              Change password
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => setChanging("second factor")}>
              {me.second ? "Take the second factor off" : "Set up a second factor"}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => void leave().catch(failed)}>
              Sign out
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM} onSelect={() => void leave(true).catch(failed)}>
              Sign out everywhere
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {changing === "password" && <ChangePassword done={close} />}
      {changing === "second factor" && <SecondFactor me={me} done={close} />}
    </>
  );
}

function ChangePassword({ done }: { done: () => void }) {
  const [trouble, setTrouble] = useState("");
  const change = useChange(
    [],
    (body: { old: string; new: string }) => got(client.PUT("/api/me/password", { body })),
    (error) => (setTrouble(error.message), true),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    const { old = "", fresh = "" } = typed(event);
    setTrouble("");
    change.run({ old, new: fresh }, (me) => {
      arrived(me);
      done();
      desk().say("Changed your password. Your other browsers are signed out.");
    });
  };
  return (
    <FormDialog title="Change password" trouble={trouble} busy={change.busy} onSubmit={submit} done={done}>
      <Field label="Password until now" name="old" type="password" autoComplete="current-password" focus />
      <Field label="New password" name="fresh" type="password" autoComplete="new-password" about={PASSWORD} least={12} />
    </FormDialog>
  );
}
