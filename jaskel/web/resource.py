"""A blueprint of the API: under ``/api``, and with the refusals that any request may meet."""

from __future__ import annotations

from http import HTTPStatus
from typing import Any

from flask import Response
from flask_openapi3 import APIBlueprint

REFUSALS = (400, 401, 403, 404, 405, 408, 409, 413, 415, 422, 429, 503, 507)


def resource(name: str, module: str) -> APIBlueprint:
    """The blueprint ``name`` of a module: every one of its operations may answer with a problem."""
    return APIBlueprint(name, module, url_prefix="/api", abp_responses={status: _problem(status) for status in REFUSALS})


def _problem(status: int) -> dict[str, Any]:
    content = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/ProblemOut"}}}
    return {"description": HTTPStatus(status).phrase, "content": content}


def kept(response: Response) -> Response:
    """An answer whose address names its content: a browser need not ask for it again."""
    response.cache_control.max_age, response.cache_control.immutable = 86_400, True
    return response


def binary(mimetype: str) -> dict[Any, Any]:
    """Describes an answer that is no JSON."""
    return {200: {"description": "OK", "content": {mimetype: {"schema": {"type": "string", "format": "binary"}}}}}
