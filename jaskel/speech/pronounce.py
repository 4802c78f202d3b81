"""How a written English word sounds, in the phones of the aligner's dictionary.

The dictionary knows most words. For the rest a rough reading by rule is enough: alignment needs the right number of sounds
of the right kind in the right order, not a perfect accent.
"""

from __future__ import annotations

import re
from collections.abc import Callable

Lookup = Callable[[str], str | None]

FILLERS = {
    "um": "AH M",
    "uhm": "AH M",
    "uh": "AH",
    "er": "ER",
    "erm": "ER M",
    "hmm": "HH M",
    "hm": "HH M",
    "mm": "M",
    "mhm": "M HH M",
}

# Longest first within each length; the first that fits at a place is taken.
_RULES: tuple[tuple[str, str], ...] = (
    ("tion", "SH AH N"), ("sion", "ZH AH N"), ("ough", "AO"), ("augh", "AO"), ("eigh", "EY"),
    ("igh", "AY"), ("tch", "CH"), ("sch", "SH"), ("dge", "JH"), ("eau", "OW"), ("ear", "IH R"), ("eer", "IH R"),
    ("air", "EH R"), ("our", "AW ER"), ("oor", "AO R"), ("oar", "AO R"), ("ure", "Y UH R"), ("ing", "IH NG"),
    ("ch", "CH"), ("sh", "SH"), ("th", "TH"), ("ph", "F"), ("wh", "W"), ("ck", "K"), ("ng", "NG"), ("qu", "K W"),
    ("gh", "G"), ("kn", "N"), ("wr", "R"), ("gn", "N"), ("mb", "M"), ("ee", "IY"), ("ea", "IY"), ("ai", "EY"),
    ("ay", "EY"), ("ei", "EY"), ("ey", "IY"), ("ie", "IY"), ("oa", "OW"), ("oo", "UW"), ("ou", "AW"), ("ow", "OW"),
    ("oi", "OY"), ("oy", "OY"), ("au", "AO"), ("aw", "AO"), ("ue", "UW"), ("ui", "UW"), ("ew", "Y UW"),
    ("ar", "AA R"), ("er", "ER"), ("ir", "ER"), ("or", "AO R"), ("ur", "ER"), ("ce", "S"), ("ci", "S IH"), ("cy", "S IY"),
    ("ge", "JH"), ("gi", "JH IH"), ("bb", "B"), ("cc", "K"), ("dd", "D"), ("ff", "F"), ("gg", "G"), ("ll", "L"),
    ("mm", "M"), ("nn", "N"), ("pp", "P"), ("rr", "R"), ("ss", "S"), ("tt", "T"), ("zz", "Z"),
    ("a", "AE"), ("b", "B"), ("c", "K"), ("d", "D"), ("e", "EH"), ("f", "F"), ("g", "G"), ("h", "HH"), ("i", "IH"),
    ("j", "JH"), ("k", "K"), ("l", "L"), ("m", "M"), ("n", "N"), ("o", "AA"), ("p", "P"), ("q", "K"), ("r", "R"),
    ("s", "S"), ("t", "T"), ("u", "AH"), ("v", "V"), ("w", "W"), ("x", "K S"), ("y", "IY"), ("z", "Z"),
)  # fmt: skip


def pronunciation(text: str, lookup: Lookup) -> str:
    """Phones of one written word, digits and hyphens included, as a string for the aligner.

    ``lookup`` gives the phones of a word in lower case, or None where the dictionary has none. Text without a letter or a
    digit sounds like a short vowel: something was said there. Capitals without a vowel that are no known word are said one by
    one.
    """

    def spelled(capitals: re.Match[str]) -> str:
        return capitals[0] if lookup(capitals[0].lower()) else " ".join(capitals[0])

    phones = [_part(part, lookup) for part in _spoken_parts(LETTERS.sub(spelled, text))]
    return " ".join(phones) or "AH"


LETTERS = re.compile(r"\b[B-DF-HJ-NP-TV-XZ]{2,6}\b")


def _spoken_parts(text: str) -> list[str]:
    from num2words import num2words

    parts = []
    for run in re.findall(r"\d+(?:,\d{3})*(?:\.\d+)?(?:st|nd|rd|th)?|[^\W\d_]+(?:['’][^\W\d_]+)*", text.lower()):
        if not run[0].isdigit():
            parts.append(run.replace("’", "'"))
            continue
        number = run.rstrip("stndrh").replace(",", "")
        ordinal = run[-1].isalpha() and "." not in number
        year = len(number) == 4 and number.isdigit() and 1100 <= int(number) <= 2099 and "," not in run and not ordinal
        value = float(number) if "." in number else int(number)
        spoken = num2words(value, to="ordinal" if ordinal else "year" if year else "cardinal")
        parts += re.findall(r"[a-z]+", spoken)
    return parts


def _part(word: str, lookup: Lookup) -> str:
    if word in FILLERS:
        return FILLERS[word]
    known = lookup(word)
    if known is None and word.endswith("'s") and (stem := lookup(word[:-2])):
        known = stem + " Z"
    if known is None and word.endswith("s") and len(word) > 3 and (stem := lookup(word[:-1])):
        known = stem + " Z"
    return known or _by_rule(word)


def _by_rule(word: str) -> str:
    word = re.sub(r"[^a-z]", "", word)
    if len(word) > 3 and word.endswith("e") and not word.endswith("ee"):
        word = word[:-1]
    phones, at = [], 0
    while at < len(word):
        letters, sound = next((rule for rule in _RULES if word.startswith(rule[0], at)), (word[at], "AH"))
        phones.append(sound)
        at += len(letters)
    return " ".join(phones)
