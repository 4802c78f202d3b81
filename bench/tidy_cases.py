"""Generated speech with faults whose places are known: other texts, speeds and rests than the demo's; as words with times.

Each case is a talk of some forty sentences. Some are begun again, hesitations and empty words stand in others, small words are
stumbled over, some rests are long, and remarks are made to whoever edits; and much is repeated, or said, on purpose. What the
recogniser makes of a voice that breaks off varies: a comma, a full stop, or nothing.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, field

from jaskel.core.tidy.finding import Kind
from jaskel.core.timebase import RATE, Ticks
from jaskel.core.transcript import Word

SENTENCES = """
The greenhouse stays warm until the middle of October.
You have to water tomatoes from below, never from above.
My grandmother kept her seeds in old tobacco tins.
A cold frame is only a box with a window on it.
We lost half of the beans to a single night of frost.
Every gardener I know has buried a mistake somewhere.
The compost heap does its best work when nobody looks at it.
Slugs prefer the lettuce that you were proudest of.
When the night train leaves the station the town goes quiet.
They replaced the last steam engine in the year I was born.
The signal box at the junction still has its brass levers.
A timetable is a promise that the weather likes to break.
He drove the same line for forty years without a holiday.
Nobody tells you how loud an empty platform can be.
The bread has to rest for an hour before it is shaped.
Salt goes in last because it slows the yeast down.
If the crust cracks while it cools the oven was right.
Her recipe says a pinch, but her pinch is a fistful.
You can smell the moment at which the onions are done.
Good knives are sharp and dangerous knives are blunt.
The mountain hut opens when the snow has left the pass.
We counted eleven marmots between the bridge and the lake.
A map shows you the path and hides how steep it is.
The weather changes faster than you can button a coat.
Old hikers walk slowly and arrive first.
Most violins are lighter than the case they travel in.
The varnish is a secret that every maker is happy to share.
Wood from the north side of the valley rings longer.
Children hear a wrong note before their parents do.
An orchestra breathes together or it does not play at all.
""".strip().splitlines()

MEANT = """
It went on and on and on until the morning.
It gets warmer and warmer every year.
Row by row by row we turned the whole field.
We need rain, we need sun, we need a little patience.
Seven hours. Seven hours is a long time on a bench.
Knead it twice. Knead it twice.
Not today, not tomorrow, not ever.
The man who sold it was the man who built it.
If you can cook it you can eat it, and if you can eat it you can sell it.
No, no, that was another year.
She sang. She sang as if nobody was there.
The first day was long. The second day was longer.
""".strip().splitlines()

EMPTY = (
    ("It was, like, three in the morning.", "like,"), ("So, we went back for the tins.", "So,"),
    ("I mean, nobody had asked us.", "I mean,"), ("They grow, you know, like weeds.", "you know,"),
    ("That is a lot of bread, right?", "right?"), ("You know, she never wrote it down.", "You know,"),
)  # fmt: skip
MEANT_WORDS = """
It looks like snow.
What is it like up there?
You know the baker better than I do.
I would like another slice.
I mean the smaller one.
It was so cold that the pipes burst.
That is the kind of soil they want.
Turn right behind the church.
""".strip().splitlines()
REMARKS = ("Note for the edit, the kettle was boiling there.", "Cut that out.", "You can cut that, please.")
SMALL = ("the", "a", "in", "of", "to", "it", "you", "they", "he", "is", "was", "that", "at", "her", "their", "and", "we", "for")
HESITATIONS = ("um", "Um,", "uh", "uh,", "er,", "hmm,")
CUES = ("", "", "", "sorry,", "sorry, again.", "no wait,", "let me start again.")


@dataclass
class Talk:
    """Words with their times, and what of them are faults: from-to by kind. ``meant`` is repeated, or said, on purpose.

    ``script`` are the sentences that were to be said, ``unsaid`` those of them that were not; ``off`` is said beside it.
    ``again`` are passages that were taken once more: with a script, either of the two may stay.
    """

    words: list[Word] = field(default_factory=list)
    faults: list[tuple[Kind, Ticks, Ticks]] = field(default_factory=list)
    meant: list[tuple[Ticks, Ticks]] = field(default_factory=list)
    script: list[str] = field(default_factory=list)
    unsaid: list[str] = field(default_factory=list)
    off: list[tuple[Ticks, Ticks]] = field(default_factory=list)
    again: list[tuple[Ticks, Ticks]] = field(default_factory=list)


class Speaker:
    """Says texts one after the other, at a speed and with rests of its own; here as words with times, without any sound.

    ``stumbles`` is the share of the sentences said in one go in which a small word comes twice.
    """

    def __init__(self, seed: int, stumbles: float = 0.0) -> None:
        self.random = random.Random(seed)
        self.stumbles = stumbles
        self.talk = Talk()
        self.at = RATE
        self.pace = self.random.uniform(0.75, 1.4)
        self.rest_after = self.random.uniform(0.3, 0.6)

    def say(self, text: str) -> tuple[Ticks, Ticks]:
        begun = len(self.talk.words)
        for each in text.split():
            length = round((0.08 + 0.05 * len(each)) * self.pace * RATE)
            self.talk.words.append(Word(each, self.at, self.at + length))
            self.at += length + round(self.random.uniform(0.0, 0.05) * RATE)
            if each[-1] in ",":
                self.pause(0.15, 0.3)
        return self.talk.words[begun].start, self.talk.words[-1].end

    def say_around(self, text: str, part: str) -> tuple[tuple[Ticks, Ticks], tuple[Ticks, Ticks]]:
        """Say a text that holds a part; gives from-to of the part, and of all of it."""
        before, after = text.split(part, 1)
        begun = len(self.talk.words)
        if before.strip():
            self.say(before)
            self.at += RATE // 8
        place = self.say(part)
        if after.strip():
            self.at += RATE // 8
            self.say(after)
        return place, (self.talk.words[begun].start, self.talk.words[-1].end)

    def pause(self, least: float, most: float) -> None:
        self.at += round(self.random.uniform(least, most) * RATE)

    def fault(self, kind: Kind, begin: Ticks, end: Ticks) -> None:
        self.talk.faults.append((kind, begin, end))


def talk(seed: int) -> Talk:
    """A talk as words; another one for each seed."""
    return given_by(Speaker(seed, stumbles=0.4))


def given_by(speaker: Speaker) -> Talk:
    """A talk with all kinds of faults, given by a speaker."""
    chance = speaker.random
    sentences = chance.sample(SENTENCES, len(SENTENCES))
    texts = [*sentences[:22], *chance.sample(MEANT, 6), *chance.sample(MEANT_WORDS, 4)]
    chance.shuffle(texts)
    for text in texts:
        speaker.talk.script.append(text)
        if text in MEANT or text in MEANT_WORDS:
            speaker.talk.meant.append(speaker.say(text))
        elif chance.random() < 0.35:
            _begun_again(speaker, text)
        elif chance.random() < 0.12:
            speaker.say(text)
            again = [sentences.pop() for _ in range(min(len(sentences) - 24, chance.choice((1, 2, 3))))]
            _passage_again(speaker, again)
            speaker.talk.script += again
        elif chance.random() < 0.35:
            _hesitating(speaker, text)
        elif speaker.stumbles and chance.random() < speaker.stumbles:
            _stumbling(speaker, text)
        else:
            speaker.say(text)
        if chance.random() < 0.12:
            speaker.pause(0.3, 0.5)
            _empty(speaker)
        if chance.random() < 0.06:
            speaker.pause(0.5, 0.8)
            speaker.fault("chatter", *speaker.say(chance.choice(REMARKS)))
            speaker.talk.off.append(speaker.talk.faults[-1][1:])
        if chance.random() < 0.15:
            begun = speaker.at
            speaker.pause(2.0, 5.0)
            speaker.fault("long rest", begun, speaker.at)
        else:
            speaker.pause(speaker.rest_after * 0.7, speaker.rest_after * 1.3)
    speaker.talk.unsaid = sentences[22:24]
    for text in speaker.talk.unsaid:
        speaker.talk.script.insert(chance.randrange(len(speaker.talk.script)), text)
    return speaker.talk


def _begun_again(speaker: Speaker, text: str) -> None:
    words = text.split()
    for _ in range(speaker.random.choice((1, 1, 1, 2, 3))):
        said = words[: speaker.random.randint(3, max(3, len(words) - 2))]
        said[-1] = said[-1].rstrip(",.") + speaker.random.choice((",", ".", ""))
        begin, end = speaker.say(" ".join(said))
        cue = speaker.random.choice(CUES)
        speaker.pause(0.2, 0.9)
        if cue:
            _, end = speaker.say(cue)
            speaker.pause(0.2, 0.6)
        speaker.fault("retake", begin, end)
    speaker.say(text)


def _passage_again(speaker: Speaker, texts: list[str]) -> None:
    """Several sentences, the last one perhaps given up, and all of them once more, nearly word for word."""
    if not texts:
        return
    said = " ".join(texts)
    given_up = len(texts) > 1 and speaker.random.random() < 0.5
    if given_up:
        said = said.rsplit(" ", speaker.random.randint(1, 4))[0]
    if len(said.split()) < 12 and not given_up:
        speaker.say(said)
        return
    begin, end = speaker.say(said)
    speaker.pause(0.4, 1.2)
    if cue := speaker.random.choice(("", "Sorry, again.", "Let me do that again.", "Once more.")):
        _, end = speaker.say(cue)
        speaker.pause(0.3, 0.8)
    speaker.fault("retake", begin, end)
    words = " ".join(texts).split()
    words[speaker.random.randrange(3, len(words) - 2)] = "quite"
    speaker.talk.again.append(speaker.say(" ".join(words)))


def _hesitating(speaker: Speaker, text: str) -> None:
    words = text.split()
    place = speaker.random.randint(0, len(words) - 1)
    if place:
        speaker.say(" ".join(words[:place]))
    speaker.pause(0.05, 0.5)
    speaker.fault("filler", *speaker.say(speaker.random.choice(HESITATIONS)))
    speaker.pause(0.05, 0.5)
    speaker.say(" ".join(words[place:]))


def _stumbling(speaker: Speaker, text: str) -> None:
    words = text.split()
    small = [place for place, word in enumerate(words) if word.lower() in SMALL]
    if not small:
        speaker.say(text)
        return
    place = speaker.random.choice(small)
    if place:
        speaker.say(" ".join(words[:place]))
    speaker.fault("doubled", *speaker.say(words[place] + speaker.random.choice(("", ","))))
    speaker.pause(0.02, 0.3)
    again = words[place] if place else words[place].lower()
    speaker.say(" ".join([again, *words[place + 1 :]]))


def _empty(speaker: Speaker) -> None:
    place, whole = speaker.say_around(*speaker.random.choice(EMPTY))
    speaker.fault("empty word", *place)
    speaker.talk.off.append(whole)
