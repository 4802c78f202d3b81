"""What is said in an edition, with what it means: what proposals and texts are made of."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy.orm import Session

from jaskel.core.captions.words import ProgrammeWord
from jaskel.core.plan import Plan
from jaskel.core.plan.sound_picture import PEAK
from jaskel.core.problem import Problem
from jaskel.core.reuse.chapters import borders
from jaskel.core.reuse.outline import FEWEST, Subject
from jaskel.core.reuse.programme import sentences_heard, with_loudness
from jaskel.jobs.meanings import languages_of
from jaskel.speech.meaning import ENGLISH, by_words
from jaskel.store.editions import Opened
from jaskel.store.material import read_envelope
from jaskel.store.meanings import Meanings
from jaskel.store.models import EditionRow, Recording
from jaskel.web.context import Itself, context


def too_little(count: int) -> str:
    """What is told where so few sentences are said."""
    said = (
        "Nobody says anything here that is written down",
        "Only one sentence is said here",
        "Only two sentences are said here",
    )
    return f"{said[count]}, so nothing can be proposed. Mark by hand what is good."


def note_on(languages: Sequence[str]) -> str:
    """What proposals cannot do in some languages; nothing where they can do all."""
    if len(languages) > 1:
        return (
            "Several languages are spoken here, so subjects are told apart by their words alone. Look at the proposals twice."
        )
    if languages and languages[0] != ENGLISH:
        return "What sentences mean is known of English alone; here subjects are told apart by their words."
    return ""


def subject_in(session: Session, opened: Opened, plan: Plan) -> Subject | None:
    """What is said in a plan, with what it means; None where that is not known yet."""
    known = Meanings(context().workshop.home.vault, session.get_one(EditionRow, opened.id).episode_id)
    english = languages_of(session, opened.id, context().workshop) in ([], [ENGLISH])
    loudness = _loudness(session, plan)

    def make() -> Subject | None:
        sentences = with_loudness(sentences_heard(plan), plan.words, loudness)
        texts = [each.text for each in sentences]
        meanings = known.of(texts) if english else by_words(texts)
        return None if meanings is None else Subject(sentences, meanings, borders(sentences, meanings))

    return context().memory.get(("subject", Itself(plan), known.stamp if english else ()), make)


def _loudness(session: Session, plan: Plan) -> Callable[[ProgrammeWord], float]:
    """How loud words are in the recordings of those who say them, by their envelopes; 0 where that is not known."""
    vault = context().workshop.home.vault
    recordings = {track.recording for name in plan.edition.used for track in plan.material.tracks(name) if track.sounds}
    digests = {name: known.digest for name in recordings if (known := session.get(Recording, name))}

    def loudness(word: ProgrammeWord) -> float:
        tracks = [track for track in plan.material.tracks(word.recording) if track.sounds]
        own = next((track for track in tracks if track.voice == word.word.voice), tracks[0] if tracks else None)
        file = vault.peaks(digests[own.recording]) if own and own.recording in digests else None
        if own is None or file is None or not file.exists():
            return 0.0
        peaks = read_envelope(file)[max(0, word.word.start - own.offset) // PEAK : (word.word.end - own.offset) // PEAK + 1]
        return sum(peaks) / len(peaks) if peaks else 0.0

    return loudness


def known_subject(session: Session, opened: Opened, plan: Plan) -> Subject:
    """What is said in a plan, with what it means.

    Raises
    ------
    Problem
        ``not-read`` or ``too-little-said``.
    """
    subject = subject_in(session, opened, plan)
    if subject is None:
        raise Problem("not-read", "It is not known yet what is said here. Wait until that has been found out.")
    if len(subject.sentences) < FEWEST:
        raise Problem("too-little-said", too_little(len(subject.sentences)))
    return subject
