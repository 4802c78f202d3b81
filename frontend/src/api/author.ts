/** Who sits in front of this window: a name, where they gave one, else the window tells them apart. Undo goes by it. */
export const WHO = "jaskel.who";
const WINDOW = "jaskel.window";

function thisWindow(): string {
  const known = sessionStorage.getItem(WINDOW);
  if (known) return known;
  const made = Array.from(crypto.getRandomValues(new Uint8Array(8)), (byte) => byte.toString(16).padStart(2, "0")).join("");
  sessionStorage.setItem(WINDOW, made);
  return made;
}

export const who = () => localStorage.getItem(WHO) ?? "";

/** As the server wants it with whatever is done or asked about undoing. */
export const author = () => ({ who: who(), window: thisWindow() });
