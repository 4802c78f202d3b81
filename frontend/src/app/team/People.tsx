/** The people of a show: who they are and what they may do, invitations, links for guests, and the log. */
import { useQuery } from "@tanstack/react-query";
import { Copy, X } from "lucide-react";
import { Dialog } from "radix-ui";
import { useState, type FormEvent } from "react";
import { client, got, type Show } from "../../api/client";
import { useMe } from "../../api/me";
import type { SchemaLinkOut as Link, SchemaMemberOut as Member } from "../../api/schema";
import { useChange } from "../../desk/change";
import { desk } from "../../desk/desk";
import { Button, Heading, Trouble } from "../../ui/controls";
import { Pick, TextField } from "../../ui/fields";

type Role = Exclude<Member["role"], "guest">;

/** What roles are called, and what they may do. */
const ROLES = [
  ["owner", "Owner", "everything, people too"],
  ["editor", "Editor", "everything but people"],
  ["proofreader", "Proofreader", "words, voices, captions, notes; exports text"],
  ["exporter", "Exporter", "reads, listens, exports"],
] as const satisfies readonly (readonly [Role, string, string])[];

const OPTIONS = ROLES.map(([role, name]) => [role, name] as const);

const day = (date: string) => new Date(date).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
const moment = (date: string) => new Date(date).toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

export function People({ show, done }: { show: Show; done: () => void }) {
  const team = useQuery({ queryKey: ["team", show.id], queryFn: () => got(client.GET("/api/shows/{show_id}/team", { params: { path: { show_id: show.id } } })) });
  const owns = show.may.includes("own");
  return (
    <Dialog.Root open onOpenChange={done}>
      <Dialog.Portal>
        <div className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content aria-describedby={undefined} className="fixed top-1/2 left-1/2 z-50 max-h-[86vh] w-[680px] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-xl bg-paper p-6 text-ink shadow-xl">
          <Dialog.Title className="pr-8 font-serif text-xl font-semibold">People of “{show.name}”</Dialog.Title>
          <Dialog.Close aria-label="Close" title="Close (Esc)" className="absolute top-4 right-4 rounded-md p-1.5 text-soft hover:bg-pick hover:text-ink">
            <X size={18} />
          </Dialog.Close>
          {team.isError && <Trouble>{team.error.message}</Trouble>}
          {team.data && (
            <>
              <ul aria-label="People" className="mt-3 divide-y divide-line border-y border-line">
                {team.data.members.map((member) => (
                  <MemberLine key={member.id} show={show.id} member={member} owns={owns} />
                ))}
              </ul>
              {owns && <Invite show={show.id} />}
              {team.data.invitations.length > 0 && (
                <ul aria-label="Invitations" className="mt-2 space-y-1">
                  {team.data.invitations.map((each) => (
                    <Waiting key={each.id} show={show.id} path={{ invitation_id: each.id }} text={`${each.label || "Somebody"}, invited as ${each.role} until ${day(each.ends)}`} />
                  ))}
                </ul>
              )}
              {team.data.guests.length > 0 && (
                <>
                  <Heading>Links for guests</Heading>
                  <ul aria-label="Links for guests" className="space-y-1">
                    {team.data.guests.map((each) => (
                      <Waiting key={each.id} show={show.id} path={{ guest_link_id: each.id }} text={`${each.label}: “${each.edition}” of “${each.episode}” until ${day(each.ends)}`} />
                    ))}
                  </ul>
                </>
              )}
              {owns && <Log show={show.id} />}
            </>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function MemberLine({ show, member, owns }: { show: string; member: Member; owns: boolean }) {
  const me = useMe().data;
  const params = { path: { show_id: show, account_id: member.id } };
  const stale = [["team", show], ["shows"]];
  const give = useChange(stale, (role: Role) => got(client.PUT("/api/shows/{show_id}/members/{account_id}", { params, body: { role } })));
  const takeOut = useChange(stale, () => got(client.DELETE("/api/shows/{show_id}/members/{account_id}", { params })));
  const role = ROLES.find(([each]) => each === member.role);
  return (
    <li className="flex items-center gap-2 py-1.5">
      <span className="min-w-0 flex-1 truncate">
        {member.name}
        {member.id === me?.id && <span className="text-soft"> (you)</span>} <span className="text-soft">{member.mail}</span>
      </span>
      {owns && !member.keeper ? (
        <>
          <Pick label={`Role of ${member.name}`} value={member.role as Role} options={OPTIONS} onChange={(next) => give.run(next)} />
          <Button look="quiet" aria-label={`Remove ${member.name} from the show`} hint="What they did stays" onClick={() => takeOut.run()}>
            Remove
          </Button>
        </>
      ) : (
        <span className="text-soft" title={role?.[2]}>
          {role?.[1]}
          {member.keeper && ", keeps this Jaskel"}
        </span>
      )}
    </li>
  );
}

function Invite({ show }: { show: string }) {
  const [label, setLabel] = useState("");
  const [role, setRole] = useState<Role>("editor");
  const [link, setLink] = useState<Link | null>(null);
  const invite = useChange([["team", show]], () => got(client.POST("/api/shows/{show_id}/invitations", { params: { path: { show_id: show } }, body: { role, label: label.trim() } })));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    invite.run(undefined, (made) => {
      setLink(made);
      setLabel("");
    });
  };
  return (
    <>
      <Heading>Invite somebody</Heading>
      <form onSubmit={submit} className="flex flex-wrap items-center gap-1.5">
        <TextField label="Who it is for" value={label} onChange={setLabel} placeholder="Who it is for" maxLength={80} className="w-44" />
        <Pick label="Role" value={role} options={OPTIONS} onChange={setRole} />
        <Button type="submit" disabled={invite.busy}>
          Make a link
        </Button>
        <span className="basis-full text-xs text-soft">{ROLES.find(([each]) => each === role)?.[2]}</span>
      </form>
      {link && <Shown link={link} about="Send it to them. It works once" />}
    </>
  );
}

/** A link that was just made: it is shown this once. */
export function Shown({ link, about }: { link: Link; about: string }) {
  const copy = () => void navigator.clipboard.writeText(link.link).then(() => desk().say("Copied the link"), () => desk().say("Select the link and copy it"));
  return (
    <div className="mt-2 rounded-md border border-line bg-side p-2.5">
      <div className="flex gap-1.5">
        <input readOnly aria-label="Link" value={link.link} onFocus={(event) => event.target.select()} className="min-w-0 flex-1 rounded-md border border-line bg-paper px-2 py-1 font-mono text-xs" />
        <Button onClick={copy}>
          <Copy size={14} /> Copy
        </Button>
      </div>
      <p className="mt-1 text-xs text-soft">
        {about}, until {day(link.ends)}, and is not shown again.
      </p>
    </div>
  );
}

/** An invitation that nobody took up yet, or a link that guests may still use. */
function Waiting({ show, path, text }: { show: string; path: { invitation_id: string } | { guest_link_id: string }; text: string }) {
  const end = useChange([["team", show]], () =>
    got("invitation_id" in path ? client.DELETE("/api/invitations/{invitation_id}", { params: { path } }) : client.DELETE("/api/guests/{guest_link_id}", { params: { path } })),
  );
  return (
    <li className="flex items-center justify-between gap-2 text-soft">
      {text}
      <Button look="quiet" aria-label={`Take back: ${text}`} onClick={() => end.run()}>
        Take back
      </Button>
    </li>
  );
}

function Log({ show }: { show: string }) {
  const [open, setOpen] = useState(false);
  const log = useQuery({ queryKey: ["log", show], queryFn: () => got(client.GET("/api/shows/{show_id}/log", { params: { path: { show_id: show } } })), enabled: open });
  return (
    <details className="mt-5" onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary className="cursor-pointer font-serif text-[15px] font-semibold">Log</summary>
      <ul aria-label="Log" className="mt-1 max-h-64 overflow-y-auto">
        {log.data?.happenings.map((each) => (
          <li key={each.at + each.told} className="leading-relaxed">
            <time className="font-mono text-xs text-soft">{moment(each.at)}</time> {each.who} {each.told}
          </li>
        ))}
      </ul>
    </details>
  );
}
