/** How the cards of this edition look, where that is otherwise than in the house style. */
import { useRef, useState } from "react";
import type { Head } from "../../api/client";
import type { SchemaCardLookField as CardLook, SchemaCardOut as Card } from "../../api/schema";
import type { Edit } from "../../page/edit";
import { useStyleChange } from "../../page/style";
import { Button, Heading } from "../../ui/controls";
import { Colour, Line, Pick, TextField, Tick } from "../../ui/fields";

interface CardsProps {
  show: string;
  head: Head;
  edit: Edit;
}

const WHICH: readonly (readonly [Card["which"], string])[] = [
  ["opening", "the opening card"],
  ["closing", "the closing card"],
  ["between", "cards between parts"],
];

const USUAL: CardLook = { text: "", colour: "", picture: "", logo: true };

export function Cards({ show, head, edit }: CardsProps) {
  const [which, setWhich] = useState<Card["which"]>("opening");
  const { picture } = useStyleChange(show);
  const file = useRef<HTMLInputElement>(null);
  const known = head.cards.find((each) => each.which === which);
  const look: CardLook = known ? { text: known.text, colour: known.colour, picture: known.picture, logo: known.logo } : USUAL;
  const set = (next: Partial<CardLook>) => edit.operate({ kind: "card look", which, look: { ...look, ...next } });
  return (
    <section aria-label="Cards">
      <Heading>Cards</Heading>
      <div className="space-y-1">
        <Pick label="Which card" value={which} options={WHICH} onChange={setWhich} className="w-full" />
        {which !== "between" && <Words key={`${which} ${look.text}`} text={look.text} set={(text) => set({ text })} />}
        <Line label="behind the words">
          <span className="flex items-center gap-1.5">
            {look.picture && <img src={`/api/house-pictures/${look.picture}`} alt="What is behind the words" className="h-6 rounded border border-line" />}
            <Button onClick={() => file.current?.click()}>{look.picture ? "Another picture" : "A picture"}</Button>
          </span>
        </Line>
        <input ref={file} type="file" hidden aria-label="File of the picture on the card" accept="image/*" onChange={(event) => event.target.files?.[0] && picture(event.target.files[0], (digest) => set({ picture: digest, colour: "" }))} />
        <Colour label="or a colour" value={look.colour || "#fcfbf7"} onChange={(colour) => set({ colour, picture: "" })} />
        <label className="flex items-center justify-between gap-2 text-soft">
          with the logo <Tick checked={look.logo} onChange={(logo) => set({ logo })} />
        </label>
        <Button look="quiet" why={!known && "It looks so already"} onClick={() => set(USUAL)}>
          As in the house style
        </Button>
      </div>
    </section>
  );
}

function Words({ text, set }: { text: string; set: (text: string) => void }) {
  const [typed, setTyped] = useState(text);
  const keep = () => typed.trim() !== text && set(typed.trim());
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        keep();
      }}
    >
      <TextField label="Words of the card" placeholder="The episode’s title" value={typed} maxLength={200} onChange={setTyped} onBlur={keep} className="w-full" />
    </form>
  );
}
