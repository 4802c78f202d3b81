/** The field in which words are looked for: a key goes there. */
export const FIND_FIELD = "find-words";

/** The bench may have to be loaded first. */
export function focusFind(tries = 60) {
  const field = document.getElementById(FIND_FIELD);
  if (field) field.focus();
  else if (tries > 0) requestAnimationFrame(() => focusFind(tries - 1));
}
