"""Chains of processors: a file of its own for each, as long as what came in."""

from __future__ import annotations

import numpy as np
import pytest
from conftest import RATE, tone

from jaskel.core.sound.processor import Gain, name_of
from jaskel.media.conformed import ConformedSound, NewConformedSound
from jaskel.media.process import process


@pytest.fixture
def conformed(tmp_path):
    path = tmp_path / "sound.flac"
    with NewConformedSound(path, 1) as new:
        new.write(0.4 * tone(2.5)[: round(2.5 * RATE)].reshape(-1, 1))
    return path


def processed(conformed, *chain):
    out = conformed.with_name("out.flac")
    process(conformed, chain, out)
    with ConformedSound(conformed) as before, ConformedSound(out) as after:
        assert after.length == before.length
        return before.read(0, before.length), after.read(0, after.length)


def test_gain_beyond_full_scale_loses_nothing(conformed):
    before, after = processed(conformed, Gain(decibels=24.0))
    assert np.abs(after).max() > 1
    assert np.abs(after - before * 10 ** (24 / 20)).max() < 1e-5


@pytest.mark.parametrize("settings", [Gain(on=False, decibels=9.0), Gain(amount=0, decibels=9.0)])
def test_what_is_off_or_not_heard_leaves_the_sound_as_it_is_to_the_bit(conformed, settings):
    before, after = processed(conformed, settings)
    assert np.array_equal(before, after)
    assert name_of((settings,)) == ""


def test_half_the_amount_is_half_of_both(conformed):
    before, after = processed(conformed, Gain(amount=50, decibels=-120.0))
    assert np.abs(after - before / 2).max() < 1e-6


def test_chains_are_named_by_what_they_do():
    quiet, loud = Gain(decibels=-6.0), Gain(decibels=6.0)
    assert name_of((quiet, loud)) != name_of((loud, quiet))
    assert name_of((quiet, Gain(on=False))) == name_of((quiet,))
