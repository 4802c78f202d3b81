"""Makes the transcript that comes with the demo, by the recogniser that hears everything else: ``python -m jaskel.demo.hear``.

It is shipped so that the demo opens at once. Make it anew when the recogniser or the demo's recordings have changed.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

from jaskel.core.spellings import Spelling
from jaskel.core.timebase import Ticks, clock
from jaskel.core.transcript import Word, word_to_json
from jaskel.demo import world
from jaskel.demo.words import SHIPPED
from jaskel.media.conform import conform
from jaskel.media.probe import probe
from jaskel.media.sound import Shelf
from jaskel.speech.activity import Sound16k
from jaskel.speech.house import house, mended
from jaskel.speech.transcribe import Part, transcribe
from jaskel.speech.weights import ENGLISH, recogniser_for

RECORDING = Path(__file__).with_name("media") / "interview.mp4"


@contextmanager
def recording() -> Iterator[tuple[Sound16k, Ticks]]:
    """The sound of the mixed interview, and its length."""
    with tempfile.TemporaryDirectory(prefix="jaskel-") as folder:
        sound = Path(folder) / "sound.flac"
        length = conform(RECORDING, probe(RECORDING, RECORDING.name), sound, Path(folder) / "peaks.bin").length
        shelf = Shelf(lambda _: sound)
        try:
            yield partial(shelf.mono_16k, ""), length
        finally:
            shelf.close()


def heard(sound: Sound16k, length: Ticks) -> Iterator[Part]:
    """What is heard in it, with the house spellings of the demo's show."""
    known = house([Spelling(term, misheard) for term, misheard in world.SPELLINGS.items()])
    return transcribe(sound, length, recogniser_for(ENGLISH), ENGLISH, mend=lambda words, again: mended(words, known, again))


def main() -> None:
    """Hear the interview, and write down what was heard."""
    words: list[Word] = []
    with recording() as (sound, length):
        for part in heard(sound, length):
            words += part.words
            print(f"\r{clock(part.end)} of {clock(length)}", end="", file=sys.stderr, flush=True)
    rows = ",\n".join(json.dumps(word_to_json(word), ensure_ascii=False) for word in words)
    SHIPPED.write_text(f'{{"length": {length}, "words": [\n{rows}\n]}}\n', encoding="utf-8")
    print(f"\n{len(words)} words in {SHIPPED}", file=sys.stderr)


if __name__ == "__main__":
    main()
