/** A second factor: six figures of an authenticator app, besides the password. */
import { useQuery } from "@tanstack/react-query";
import { QRCodeSVG } from "qrcode.react";
import { useState, type FormEvent } from "react";
import { client, got } from "../../api/client";
import { arrived, type Me } from "../../api/me";
import { useChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Trouble } from "../../ui/controls";
import { CodeField, Field, FormDialog, typed } from "./parts";

const PATH = "/api/me/second-factor";

export function SecondFactor({ me, done }: { me: Me; done: () => void }) {
  return me.second ? <TakeOff done={done} /> : <SetUp done={done} />;
}

function SetUp({ done }: { done: () => void }) {
  const [trouble, setTrouble] = useState("");
  const made = useQuery({ queryKey: ["second factor"], queryFn: () => got(client.POST(PATH)), staleTime: Infinity, gcTime: 0 });
  const change = useChange(
    [],
    (body: { secret: string; code: string; password: string }) => got(client.PUT(PATH, { body })),
    (error) => (setTrouble(error.message), true),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    const { code = "", password = "" } = typed(event);
    setTrouble("");
    change.run({ secret: made.data?.secret ?? "", code, password }, (me) => {
      arrived(me);
      done();
      desk().say("Set up the second factor. Your other browsers are signed out.");
    });
  };
  return (
    <FormDialog title="Set up a second factor" trouble={trouble} busy={change.busy || !made.data} onSubmit={submit} done={done}>
      <p className="leading-snug">Scan this with an authenticator app. From then on you sign in with your password and the six figures the app shows.</p>
      {made.isError && <Trouble>{made.error.message}</Trouble>}
      <div className="grid h-44 place-items-center rounded-md border border-line bg-white">{made.data && <QRCodeSVG value={made.data.address} size={160} title="For the authenticator app" />}</div>
      {made.data && (
        <p className="text-xs leading-snug text-soft">
          Or enter this key: <span className="font-mono text-ink select-all">{made.data.secret.match(/.{4}/g)?.join(" ")}</span>
        </p>
      )}
      <CodeField focus />
      <Field label="Your password" name="password" type="password" autoComplete="current-password" />
    </FormDialog>
  );
}

function TakeOff({ done }: { done: () => void }) {
  const [trouble, setTrouble] = useState("");
  const change = useChange(
    [],
    (body: { code: string; password: string }) => got(client.DELETE(PATH, { body })),
    (error) => (setTrouble(error.message), true),
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    const { code = "", password = "" } = typed(event);
    setTrouble("");
    change.run({ code, password }, (me) => {
      arrived(me);
      done();
      desk().say("Took the second factor off. You sign in with your password alone.");
    });
  };
  return (
    <FormDialog title="Take the second factor off" trouble={trouble} busy={change.busy} verb="Take off" onSubmit={submit} done={done}>
      <CodeField focus />
      <Field label="Your password" name="password" type="password" autoComplete="current-password" />
    </FormDialog>
  );
}
