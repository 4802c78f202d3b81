"""The examples in docstrings are true."""

from __future__ import annotations

import doctest
import importlib
import pkgutil

import pytest

import jaskel.core
import jaskel.media

MODULES = [
    module.name
    for package in (jaskel.core, jaskel.media)
    for module in pkgutil.walk_packages(package.__path__, f"{package.__name__}.")
]


@pytest.mark.parametrize("name", MODULES)
def test_examples(name):
    assert doctest.testmod(importlib.import_module(name)).failed == 0


def test_there_are_some():
    finder = doctest.DocTestFinder()
    found = [each for name in MODULES for each in finder.find(importlib.import_module(name)) if each.examples]
    assert len(found) >= 10
