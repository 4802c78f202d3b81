"""Fillers, stumbles and cues in other languages than English."""

from __future__ import annotations

from dataclasses import replace

import pytest
from test_tidy import spoken

from jaskel.core.tidy.find import find
from jaskel.core.tidy.finding import plain
from jaskel.core.tidy.languages import LISTS, in_language
from jaskel.core.tidy.settings import TidySettings


def found(text, language, kind, settings=None):
    return [
        each.text
        for each in find(spoken(text), settings=in_language(settings or TidySettings(), language))
        if each.kind == kind
    ]


@pytest.mark.parametrize(
    ("language", "text", "fillers"),
    [
        ("de", "Er war, ähm, um acht am Hafen.", ["ähm,"]),
        ("fr", "Il était, euh, au port.", ["euh,"]),
        ("it", "Era, ehm, al porto.", ["ehm,"]),
        ("es", "Estaba, eh, en el puerto.", ["eh,"]),
        ("ru", "Он был, эм, в порту.", ["эм,"]),
        ("tr", "Limandaydı, hmm, sabah.", ["hmm,"]),
        ("en", "He was, um, at the harbour.", ["um,"]),
    ],
)
def test_hesitations_are_those_of_the_language(language, text, fillers):
    assert found(text, language, "filler") == fillers


@pytest.mark.parametrize(
    ("language", "text", "twice"),
    [
        ("de", "Wir fuhren in in den Hafen.", ["in"]),
        ("fr", "Nous allons dans dans le port.", ["dans"]),
        ("it", "Andiamo nel con con la barca.", ["con"]),
        ("de", "Das Boot, das an an Land lag.", ["an"]),
        ("tr", "Biz we we gittik.", []),
    ],
)
def test_small_words_are_stumbled_over_in_each(language, text, twice):
    assert found(text, language, "doubled") == twice


def test_an_attempt_is_given_up_in_words_of_the_language():
    text = "Das Boot lag im, Entschuldigung, das Boot lag im alten Hafen."
    assert found(text, "de", "retake")


def test_what_is_empty_is_known_in_english_only():
    assert not found("Es war, like, kalt, so, you know, kalt.", "de", "empty word")


def test_a_show_that_has_its_own_list_keeps_it():
    own = replace(TidySettings(), fillers=frozenset(["also"]))
    assert found("Es war, ähm, also, kalt.", "de", "filler", own) == ["also,"]


def test_the_lists_are_written_as_words_are_compared():
    for lists in LISTS.values():
        for word in lists.fillers | lists.doubled | lists.cues:
            assert plain(word) == word
