/** People who are here: their initials at the passage where they are. */
import type { PageMark } from "./marks";
import type { Present } from "./presence";

const HUES = ["var(--blue)", "var(--teal)", "var(--plum)", "var(--ochre)"];

/** The same colour for the same person, wherever they are. */
const hueOf = (name: string) => HUES[[...name].reduce((sum, letter) => sum + (letter.codePointAt(0) ?? 0), 0) % HUES.length];

export function Initials({ person, small }: { person: Present; small?: boolean }) {
  return (
    <span role="img" aria-label={`${person.name} is here`} title={`${person.name} is here`} style={{ backgroundColor: hueOf(person.name) }} className={`grid ${small ? "size-5" : "size-6"} place-items-center rounded-full text-xs font-semibold text-paper`}>
      {person.initials}
    </span>
  );
}

/** The mark of somebody on the page. */
export const personMark = (person: Present): PageMark => ({
  id: `person ${person.name}`,
  lane: "margin",
  begin: person.at,
  end: person.at + 1,
  look: "person",
  label: `${person.name} is here`,
  drawn: <Initials person={person} small />,
});
