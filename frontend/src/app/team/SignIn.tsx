/** Signing in with e-mail address and password. */
import { useState, type FormEvent } from "react";
import { client, got, Refusal } from "../../api/client";
import { arrived } from "../../api/me";
import { useChange } from "../../desk/change";
import { Button, Trouble } from "../../ui/controls";
import { CodeField, Entrance, Field, typed } from "./parts";

export function SignIn() {
  const [trouble, setTrouble] = useState("");
  const [needsCode, setNeedsCode] = useState(false);
  const change = useChange(
    [],
    (body: { mail: string; password: string; code: string }) => got(client.POST("/api/sign-in", { body })),
    (error) => {
      const asks = error instanceof Refusal && error.problem.code === "code-needed";
      setNeedsCode((before) => before || asks);
      setTrouble(asks ? "" : error.message);
      return true;
    },
  );
  const submit = (event: FormEvent<HTMLFormElement>) => {
    const { mail = "", password = "", code = "" } = typed(event);
    setTrouble("");
    change.run({ mail, password, code }, arrived);
  };
  return (
    <Entrance title="Sign in">
      <form onSubmit={submit} className="space-y-3">
        <Field label="E-mail address" name="mail" type="email" autoComplete="username" focus />
        <Field label="Password" name="password" type="password" autoComplete="current-password" />
        {needsCode && <CodeField focus />}
        {trouble && <Trouble>{trouble}</Trouble>}
        <Button type="submit" look="strong" disabled={change.busy}>
          Sign in
        </Button>
      </form>
      <p className="leading-snug text-soft">Forgot it? Ask whoever runs this Jaskel for a link to choose a new one.</p>
    </Entrance>
  );
}
