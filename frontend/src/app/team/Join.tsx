/** Taking up an invitation: with a new account, or with the one that is signed in; or choosing a password. */
import { useQuery } from "@tanstack/react-query";
import { useState, type FormEvent } from "react";
import { useLocation } from "wouter";
import { client, got } from "../../api/client";
import { arrived, type Me } from "../../api/me";
import { useChange } from "../../desk/change";
import { Button, Trouble } from "../../ui/controls";
import { Entrance, Field, PASSWORD, secret, typed } from "./parts";

export function Join({ me }: { me: Me }) {
  const [link] = useState(secret);
  const [, go] = useLocation();
  const [trouble, setTrouble] = useState("");
  const found = useQuery({ queryKey: ["invitation", link], queryFn: () => got(client.POST("/api/invitations/look", { body: { secret: link } })), retry: false, staleTime: Infinity });
  const join = useChange(
    [],
    (who: { name?: string; mail?: string; password?: string }) => got(client.POST("/api/invitations/join", { body: { secret: link, name: "", mail: "", password: "", ...who } })),
    (error) => (setTrouble(error.message), true),
  );
  const take = (who: { name?: string; mail?: string; password?: string }) => {
    setTrouble("");
    join.run(who, (now) => {
      arrived(now);
      go("/", { replace: true });
    });
  };
  const submit = (event: FormEvent<HTMLFormElement>) => take(typed(event));
  if (found.isError) {
    return (
      <Entrance title="This link has ended">
        <Trouble>{found.error.message}</Trouble>
      </Entrance>
    );
  }
  if (!found.data) return null;
  const { show, role, name, mail } = found.data;
  if (mail) {
    return (
      <Entrance title="Choose a password">
        <p className="text-soft">
          For {name}, {mail}
        </p>
        <form onSubmit={submit} className="space-y-3">
          <Field label="New password" name="password" type="password" autoComplete="new-password" about={PASSWORD} least={12} focus />
          {trouble && <Trouble>{trouble}</Trouble>}
          <Button type="submit" look="strong" disabled={join.busy}>
            Save and sign in
          </Button>
        </form>
      </Entrance>
    );
  }
  return (
    <Entrance title={`Join “${show}”`}>
      <p className="text-soft">
        You are invited as {/^[aeiou]/.test(role) ? "an" : "a"} {role}.
      </p>
      {me.signed_in && !me.edition ? (
        <>
          {trouble && <Trouble>{trouble}</Trouble>}
          <Button look="strong" disabled={join.busy} onClick={() => take({})}>
            Join as {me.name}
          </Button>
        </>
      ) : (
        <form onSubmit={submit} className="space-y-3">
          <Field label="Your name, as the others see it" name="name" autoComplete="name" focus />
          <Field label="E-mail address" name="mail" type="email" autoComplete="username" />
          <Field label="Password" name="password" type="password" autoComplete="new-password" about={PASSWORD} least={12} />
          {trouble && <Trouble>{trouble}</Trouble>}
          <Button type="submit" look="strong" disabled={join.busy}>
            Make an account
          </Button>
          <p className="leading-snug text-soft">You have one? Sign in first, then open the link again.</p>
        </form>
      )}
    </Entrance>
  );
}
