"""A studio's library: ten thousand episodes, listed and searched. JASKEL_DATABASE names an empty PostgreSQL to measure that."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import closing
from pathlib import Path

from bench.figure import Figure, timed
from jaskel.core.operations import Append
from jaskel.core.timebase import RATE
from jaskel.core.transcript import Word, word_to_json
from jaskel.settings import Settings
from jaskel.store import library, spoken
from jaskel.store.home import Home
from jaskel.store.models import Recording, TranscriptPart
from jaskel.web.app import create_app

EPISODES, SHOWS, WORDS_EACH = 10_000, 20, 120
TEXTS = Path(__file__).with_name("texts")
INFO = {"container": "flac", "seconds": 60.0, "sound_codec": "flac", "channels": 1, "sample_rate": RATE, "picture": None}


def figures(folder: Path) -> Iterator[Figure]:
    """Listing all, and searching for a phrase that a few of them have, for a beginning that many have, and for nothing."""
    settings = Settings(folder / "grown", shared_database=os.environ.get("JASKEL_DATABASE", ""))
    with closing(Home(settings)) as home:
        home.database.migrate()
        _fill(home)
    client = create_app(settings).test_client()

    def ask(path: str) -> float:
        answer = client.get(path)
        assert answer.status_code == 200, answer.text
        return timed(lambda: client.get(path), 3)

    on = "PostgreSQL" if settings.shared_database else "SQLite"
    for name, path in (
        ("listing", "/api/shows"),
        ("searching for a rare phrase in", "/api/search?words=seven%20thousand%20ropes"),
        ("searching for a common word in", "/api/search?words=the"),
        ("searching for nothing in", "/api/search?words=zzyzx"),
    ):
        seconds = ask(path)
        yield Figure(f"{name} {EPISODES:,} episodes ({on})", f"{seconds * 1000:.0f} ms", "≤ 300 ms", seconds <= 0.3)


def _fill(home: Home) -> None:
    said = " ".join(path.read_text(encoding="utf-8") for path in sorted(TEXTS.glob("*.txt"))).split()
    for number in range(SHOWS):
        with home.database.write() as session:
            show = library.new_show(session, f"Show {number}")
            for episode in range(number, EPISODES, SHOWS):
                _add(home, session, library.new_episode(session, show, f"Episode {episode}"), episode, said)
            session.info.clear()


def _add(home: Home, session, made, number: int, said: list[str]) -> None:  # type: ignore[no-untyped-def]
    """An episode with a minute in which something is said."""
    length = WORDS_EACH * RATE // 2
    recording = Recording(
        episode_id=made.id, name="a.flac", digest=f"{number:064x}", size=1, info=INFO, state="ready", length=length,
        transcript_state="done",
    )  # fmt: skip
    session.add(recording)
    session.flush()
    first = number * 37 % (len(said) - WORDS_EACH)
    texts = said[first : first + WORDS_EACH]
    if number % 500 == 7:
        texts[40:43] = ["seven", "thousand", "ropes"]
    words = [word_to_json(Word(text, at * RATE // 2, at * RATE // 2 + RATE // 3, 0.9)) for at, text in enumerate(texts)]
    session.add(TranscriptPart(recording_id=recording.id, start=0, end=length, words=words))
    spoken.index(session, recording.id, 0, words)
    home.editions.arrive(session, made.editions[0].id, Append(recording.id, length))
