/** Who sits here: a name, where they gave one, and this browser, by which undo knows them tomorrow as well. */
export const WHO = "jaskel.who";
const BROWSER = "jaskel.browser";

function thisBrowser(): string {
  const known = localStorage.getItem(BROWSER);
  if (known) return known;
  const made = Array.from(crypto.getRandomValues(new Uint8Array(8)), (byte) => byte.toString(16).padStart(2, "0")).join("");
  localStorage.setItem(BROWSER, made);
  return made;
}

let account = "";

/** Somebody is signed in: what they are called follows from that. */
export const signedInAs = (name: string) => void (account = name);

export const who = () => account || (localStorage.getItem(WHO) ?? "");

/** As the server wants it with whatever is done or asked about undoing. */
export const author = () => ({ who: who(), window: thisBrowser() });
