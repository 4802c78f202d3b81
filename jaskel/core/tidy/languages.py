"""The lists of other languages than English: what fills a pause, what is stumbled over, and what gives an attempt up.

An English list does harm elsewhere: "er" and "um" are words in German. A list that a show has made its own leads everywhere.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from jaskel.core.tidy.fillers import FILLERS
from jaskel.core.tidy.finding import set_of
from jaskel.core.tidy.retakes import CUES
from jaskel.core.tidy.settings import TidySettings

ENGLISH = "en"


@dataclass(frozen=True)
class Lists:
    """Sounds of hesitation, small words nobody says twice on purpose, and words between an attempt and the next one."""

    fillers: frozenset[str] = set_of("uh uhm hm hmm mm mmm mhm")
    doubled: frozenset[str] = frozenset()
    cues: frozenset[str] = frozenset()


LISTS: Mapping[str, Lists] = {
    "fr": Lists(
        set_of("euh heu euhm hum hm hmm mm mmm"),
        set_of("le la les un une des du de et à que qui je tu il elle on ce c'est dans sur pour mais"),
        set_of("pardon encore non attends attendez ok bon alors bref je recommence reprends"),
    ),
    "de": Lists(
        set_of("äh ähm öh öhm hm hmm mm mmm mhm"),
        set_of("der die das den dem ein eine einen und in im an am auf zu mit von ich du er sie es wir ihr dass wenn so"),
        set_of("entschuldigung sorry nochmal noch einmal nein halt moment okay ok also gut so"),
    ),
    "es": Lists(
        set_of("eh ehm em mm mmm hm hmm"),
        set_of("el la los las un una y de del en que a con por para yo tú él ella pero se lo"),
        set_of("perdón perdon otra vez no espera esperen ok vale bueno entonces repito"),
    ),
    "it": Lists(
        set_of("ehm eh uhm mm mmm hm hmm"),
        set_of("il lo la i gli le un una e di del della in che a con per io tu lui lei ma si"),
        set_of("scusa scusate ancora no aspetta aspettate ok bene allora ripeto dunque"),
    ),
    "pt": Lists(
        set_of("ã ãh hã hum hm hmm mm mmm uhm"),
        set_of("o a os as um uma e de do da em no na que com por para eu tu ele ela mas se"),
        set_of("desculpa desculpe outra vez não espera ok bom então repito"),
    ),
    "nl": Lists(
        set_of("eh ehm euh uhm hm hmm mm mmm"),
        set_of("de het een en van in op te aan met dat die ik je hij zij we maar als"),
        set_of("sorry nog opnieuw keer nee wacht oké ok goed dus"),
    ),
    "ru": Lists(
        set_of("э ээ эээ эм ммм мм хм гм"),
        set_of("и в на не что я он она мы вы с к а но как это по из"),
        set_of("извините простите ещё еще раз нет стоп подождите так ладно ну"),
    ),
}
"""By the codes of ISO 639-1. Rests, takes and chatter need no list of their own."""


def in_language(settings: TidySettings, language: str) -> TidySettings:
    """What a show wants, for a recording in a language: its own lists where it has some, else those of the language."""
    if language == ENGLISH:
        return settings
    lists = LISTS.get(language, Lists())
    return replace(
        settings,
        fillers=lists.fillers if settings.fillers == FILLERS else settings.fillers,
        cues=lists.cues if settings.cues == CUES else settings.cues,
        doubled=lists.doubled,
        empty_words=False,
    )
