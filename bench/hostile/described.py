"""Requests made up by schemathesis from the API's own description, and answers held against it.

Where an id is asked for, half of them name something that is there: the others get no further than its door.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import schemathesis
from flask import Flask
from hypothesis import HealthCheck, Phase, given, seed, settings
from hypothesis.errors import Unsatisfiable
from schemathesis import GenerationMode
from schemathesis.checks import not_a_server_error
from schemathesis.core.failures import Failure, FailureGroup
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance, status_code_conformance

CHECKS = [not_a_server_error, content_type_conformance, response_schema_conformance, status_code_conformance]
LASTING = ("/api/notices",)
"""What goes on sending is no answer that ends."""


@dataclass
class Asked:
    """How many requests were sent, and what was wrong with answers: the operation and what was found."""

    many: int = 0
    wrong: list[tuple[str, str]] = field(default_factory=list)


def ask_all(app: Flask, ids: Mapping[str, str], each: int, number: int = 1) -> Asked:
    """Ask each operation that ``app`` describes for ``each`` valid and as many invalid things; the same for a ``number``."""
    asked = Asked()
    described = schemathesis.openapi.from_wsgi("/api/description/openapi.json", app)
    for found in described.get_all_operations():
        operation: Any = found.ok()
        if operation.path in LASTING:
            continue
        # Hypothesis would look for seconds for what is wrong where any text is right.
        modes = (GenerationMode.POSITIVE,) if _takes_any_text(operation) else (GenerationMode.POSITIVE, GenerationMode.NEGATIVE)
        for mode in modes:
            try:
                _ask(operation.as_strategy(generation_mode=mode), operation.label, ids, each, number, asked)
            except Unsatisfiable:  # what takes nothing cannot be asked wrongly
                continue
    return asked


def _takes_any_text(operation: Any) -> bool:
    """Whether all that an operation takes is an address in which each part may be any text."""
    schemas = [each.definition["schema"] for each in operation.path_parameters]
    free = all({**schema, "title": ""} == {"type": "string", "title": ""} for schema in schemas)
    return free and not (operation.body or operation.query or operation.headers)


def _ask(cases: Any, label: str, ids: Mapping[str, str], each: int, number: int, asked: Asked) -> None:
    @seed(number)
    @settings(max_examples=each, deadline=None, database=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
    @given(case=cases)
    def ask(case: Any) -> None:
        asked.many += 1
        for name in case.path_parameters or {}:
            if asked.many % 2 and name.removesuffix("_id") in ids:
                case.path_parameters[name] = ids[name.removesuffix("_id")]
        response = case.call()
        try:
            case.validate_response(response, checks=CHECKS)
        except (Failure, FailureGroup) as failure:
            parts = failure.exceptions if isinstance(failure, FailureGroup) else [failure]
            asked.wrong += [(label, f"{part}"[:400]) for part in parts]

    ask()
