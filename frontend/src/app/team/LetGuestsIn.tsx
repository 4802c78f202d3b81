/** Makes a link by which guests hear one edition and write notes on it. */
import { UserPlus } from "lucide-react";
import { useState, type FormEvent } from "react";
import { client, got } from "../../api/client";
import type { SchemaLinkOut as Link } from "../../api/schema";
import { useChange } from "../../desk/change";
import { Button } from "../../ui/controls";
import { TextField } from "../../ui/fields";
import { NumberField } from "../../ui/NumberField";
import { Shown } from "./People";

export function LetGuestsIn({ edition, name }: { edition: string; name: string }) {
  const [label, setLabel] = useState("");
  const [days, setDays] = useState(14);
  const [link, setLink] = useState<Link | null>(null);
  const make = useChange([["team"]], () => got(client.POST("/api/editions/{edition_id}/guests", { params: { path: { edition_id: edition } }, body: { label: label.trim(), days } })));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (label.trim()) make.run(undefined, setLink);
  };
  return (
    <>
      <form onSubmit={submit} className="flex flex-wrap items-center gap-1.5">
        <TextField label="Who the link is for" value={label} onChange={setLabel} placeholder="Who the link is for" maxLength={80} className="w-52" />
        <NumberField label="Days it works" unit="days" least={1} most={365} value={days} onChange={setDays} />
        <Button type="submit" disabled={!label.trim() || make.busy}>
          <UserPlus size={14} /> Make a link
        </Button>
        <span className="basis-full text-xs leading-snug text-soft">Guests hear “{name}” as it is cut, comment on it and suggest cuts. They see nothing else.</span>
      </form>
      {link && <Shown link={link} about="Send it to your guests. It works for all of them" />}
    </>
  );
}
