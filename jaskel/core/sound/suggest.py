"""What a chain for a recording could be, from what was measured of it: what was found, what is proposed, and why."""

from __future__ import annotations

from dataclasses import dataclass

from jaskel.core.sound.processor import (
    Bleed,
    Chain,
    Clipped,
    Compressor,
    Equaliser,
    Gain,
    Hum,
    Leveller,
    LowCut,
    Noise,
    Plosives,
    Polarity,
    Processor,
    Sibilants,
)


@dataclass(frozen=True, slots=True)
class Found:
    """What was measured of a recording.

    Attributes
    ----------
    speech, noise
        Levels of what is loud and of what is quiet, in dBFS.
    hum
        Lines of hum in hertz.
    echo
        Reverberation time in seconds, 0 where it could not be told.
    clipped
        Of a thousand samples, how many stand at the top in a row.
    sharp
        How loud hisses are against the voice, in decibels.
    blasts
        Blasts of air a minute.
    highest
        The highest frequency of the voice, in hertz.
    against, one_side
        Whether left and right work against each other, and on which side all is (-1 left, 1 right), where that is so.
    spread
        By how many decibels loud words are louder than usual ones.
    turned
        Whether it is the other way round than the microphone beside it.
    wordless
        Whether no word was heard in it, although it was listened to.
    """

    speech: float = -100.0
    noise: float = -100.0
    hum: tuple[float, ...] = ()
    echo: float = 0.0
    clipped: float = 0.0
    sharp: float = -30.0
    blasts: float = 0.0
    highest: float = 16_000.0
    against: bool = False
    one_side: int = 0
    spread: float = 6.0
    silent: bool = False
    turned: bool = False
    wordless: bool = False


@dataclass(frozen=True, slots=True)
class Suggestion:
    """What was found in words, the chain that is proposed, and why each of its processors is in it."""

    found: tuple[str, ...]
    chain: Chain
    why: tuple[str, ...]


MOST_NOISE = 60
"""In per cent. With so much no word is lost; with all of it a recogniser misses two in a hundred (``bench sound``)."""

QUIET_ROOM, LOUD_ROOM = 50.0, 25.0
"""By how many decibels the voice is above the noise, where next to nothing or nearly all is taken out."""

DRY, ECHOING = 0.35, 0.5
"""Reverberation times in seconds up to which a room is dry, and from which it echoes."""

SHARP = -8.0
CLIPPED = 0.05
BLASTS = 2.0
TELEPHONE = 4200.0
QUIETER, LEAST = 3.0, -40.0


def suggest(found: Found, quieter: float = 0.0, others: int = 0) -> Suggestion:
    """A chain for a recording; its voice is so many decibels ``quieter`` than the loudest, and ``others`` speak beside it."""
    if found.silent:
        return Suggestion(("nothing is heard in it",), (), ())
    if found.wordless:
        music = "if it is music, say so under Gather, and it can lie under the words"
        return Suggestion(("no words are heard in it", music), (), ())
    told: list[str] = [f"voice {found.speech:.0f} dB, noise {found.noise:.0f} dB"]
    chain: list[Processor] = []
    why: list[str] = []

    def add(each: Processor, reason: str) -> None:
        chain.append(each)
        why.append(reason)

    if found.turned:
        told.append("works against the microphone beside it")
        add(Polarity(), "turns the wave over, or both together sound thin")
    if found.against:
        told.append("left and right work against each other: part them under Gather, which turns one over")

    if quieter >= QUIETER or found.speech < LEAST:
        more = round(quieter if quieter >= QUIETER else -24 - found.speech)
        told.append(f"{more} dB quieter than the other voice" if quieter >= QUIETER else "very quiet")
        add(Gain(decibels=float(more)), f"{more} dB more, or what follows works on too little")
    if found.clipped > CLIPPED:
        told.append("peaks cut off")
        add(Clipped(), "draws in what was cut off, before anything else changes it")
    add(LowCut(hertz=100.0 if found.blasts > BLASTS else 75.0), "nothing of a voice is below that")
    if found.blasts > BLASTS:
        told.append(f"{found.blasts:.0f} blasts of air a minute")
        add(Plosives(), "softens them where they are")
    if found.hum:
        base = 60 if all(line % 60 == 0 for line in found.hum) else 50
        told.append(f"hum at {base} Hz")
        add(Hum(), "takes out its lines, narrower than a voice is")
    above = found.speech - found.noise
    echoes = found.echo >= ECHOING
    if found.echo:
        told.append(f"echo {found.echo:.1f} s")
    if above < QUIET_ROOM or echoes:
        share = (QUIET_ROOM - above) / (QUIET_ROOM - LOUD_ROOM)
        amount = round(min(MOST_NOISE, max(30, 30 + 30 * share, MOST_NOISE if echoes else 0)), -1)
        add(Noise(amount=int(amount)), "so much that the room is heard less, and not so much that it sounds taken out")
    if found.highest and found.highest < TELEPHONE:
        told.append("as through a telephone")
        add(
            Equaliser(bell_low=250.0, bell_low_gain=2.0, bell_high=1000.0, bell_high_gain=-2.0),
            "less of the middle, more below",
        )
    if found.sharp > SHARP:
        told.append("sharp s sounds")
        add(Sibilants(strength=0.5), "softens them")
    add(
        Compressor(threshold=round(min(-14.0, found.speech + (quieter if quieter >= QUIETER else 0)), 0)),
        "loud and soft words nearer",
    )
    add(Leveller(), "every word as loud as the voice, breaths and rests left alone")
    if others:
        add(Bleed(), "the others’ voices in this microphone, while this one is silent")
    return Suggestion(tuple(told), tuple(chain), tuple(why))
