"""Chains of processors by name and from files."""

from __future__ import annotations

import json

import pytest

from jaskel.core.problem import Problem
from jaskel.core.sound.chains import (
    CHAINS,
    called,
    chain_called,
    from_json,
    noise_of,
    read_chain,
    to_json,
    with_noise,
)
from jaskel.core.sound.processor import Compressor, Gain, LowCut, Noise, name_of


@pytest.mark.parametrize("name", list(CHAINS))
def test_those_that_come_with_jaskel_are_read_back_as_they_were(name):
    assert from_json(json.loads(json.dumps(to_json(CHAINS[name])))) == CHAINS[name]
    assert chain_called(name.replace(" ", "-").upper()) == CHAINS[name]


def test_a_file_holds_a_list_or_an_object():
    chain = (Gain(decibels=-3), Noise(amount=40, on=False))
    assert read_chain(json.dumps(to_json(chain))) == chain
    assert read_chain(json.dumps({"chain": to_json(chain)})) == chain


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("{", "not JSON"),
        ("[" * 100_000, "not JSON"),
        ('{"a": 1}', "no list of processors"),
        ('["noise"]', "processor 1 is none that is known"),
        ('[{"kind": "flanger"}]', "there are gain, low cut"),
        ('[{"kind": "noise", "strength": 1}]', "no setting “strength”; it has on, amount, most"),
        ('[{"kind": "noise", "amount": "much"}]', "“amount” of “noise” is no number"),
        ('[{"kind": "noise", "on": 1}]', "neither true nor false"),
        ('[{"kind": "noise", "amount": 101}]', "101 % is out of range"),
        ('[{"kind": "compressor", "ratio": 0}]', "ratio of “compressor” takes 1 to 20"),
        ('[{"kind": "hum", "hertz": 55}]', "50 or 60 Hz"),
        ('[{"kind": "low cut", "hertz": NaN}]', "frequency of “low cut” takes"),
    ],
)
def test_nonsense_is_told_plainly(text, told):
    with pytest.raises(Problem, match="not a chain that Jaskel can use") as raised:
        read_chain(text)
    assert told in raised.value.sentence


def test_an_unknown_name_lists_those_there_are():
    with pytest.raises(Problem, match="close microphone"):
        chain_called("Wide open")


def test_whole_numbers_and_others_are_one_setting():
    assert (
        name_of((LowCut(hertz=80),))
        == name_of((LowCut(hertz=80.0),))
        == name_of(read_chain('[{"kind": "low cut", "hertz": 80}]'))
    )


def test_a_gain_and_an_amount_of_noise_leave_a_chain_its_name():
    for name, chain in CHAINS.items():
        assert called((Gain(decibels=-4), *with_noise(chain, 35))) == name
    assert called((Noise(), LowCut())) == "own"
    written = [from_json([{"kind": "hum", "hertz": value}]) for value in (50, 50.0)]
    assert name_of(written[0]) == name_of(written[1])
    assert noise_of(with_noise(CHAINS["phone line"], 35)) == 35 and noise_of(()) is None


def test_settings_have_bounds():
    with pytest.raises(ValueError, match="threshold"):
        Compressor(threshold=3)
