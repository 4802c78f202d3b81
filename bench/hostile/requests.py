"""Made-up requests, from the API's own description: half understood, half absurd."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any
from urllib.parse import quote, urlencode

NUMBERS = (0, 1, -1, 48_000, 2**31, 2**53, 2**63 - 1, 2**63, 2**64, 10**30, -(2**63), 0.5, 1e308)
TEXTS = (
    "", " ", "a", "Ropewalk", "\0", "a\r\nSet-Cookie: b", "x" * 300, "../../etc/passwd", "<b>", "%00", "\u202e", "\ud800",
    "🜁" * 90, "'; DROP TABLE log; --", "{{7*7}}", "NaN", "null", "\x1b[31m", "ﷺ",
)  # fmt: skip
RAW = (b"", b"{", b"[]", b"null", b'"a"', b"\xff\xfe", b"{" * 100_000, b"[" * 100_000, b'{"a":' * 50_000, b"1e999", b"\0" * 50)
ODD_HEADERS: tuple[dict[str, str], ...] = (
    {"Origin": "http://["}, {"Origin": "null"}, {"Host": "["}, {"Host": "evil.example"}, {"Range": "bytes=9-1"},
    {"Range": "bytes=" + "0-1," * 900}, {"Last-Event-ID": "9" * 40}, {"If-None-Match": '"' * 99}, 
    {"Content-Type": "text/plain"}, {"Accept": "x/" * 200}, {"Content-Encoding": "gzip"}, {"If-Range": "\t"},
)  # fmt: skip


Ids = Mapping[str, str]
"""Ids of things that are there, by what they are of: ``recording``, ``edition`` …"""

ALSO = {"other": "edition", "copy_of": "edition", "by": "recording", "recordings": "recording", "track": "recording"}
"""Fields that name things without saying of what kind."""


SMALL = ("revision", "number", "count", "pick", "rhythm")
"""Fields whose numbers count something, instead of being ticks."""


@dataclass(frozen=True)
class Made:
    """A request as it is sent."""

    method: str
    operation: str
    """The path as the description has it."""
    path: str
    body: bytes
    headers: dict[str, str]


def requests(description: Mapping[str, Any], ids: Ids, many: int, seed: int = 1) -> Iterator[Made]:
    """Made-up requests on everything that an OpenAPI description names; ``ids`` are of things that are there."""
    chance = random.Random(seed)
    asked = [
        (method, path, operation)
        for path, methods in sorted(description["paths"].items())
        for method, operation in sorted(methods.items())
    ]
    schemas = description["components"]["schemas"]
    kept = [each for each in asked if each[0] != "delete"]
    for number in range(many):
        # What is deleted is nothing to be asked about any more, so that comes last.
        method, path, operation = chance.choice(kept if number < many * 0.9 else asked)
        yield _made(chance, method, path, operation, schemas, ids)


def _made(
    chance: random.Random, method: str, path: str, operation: Mapping[str, Any], schemas: Mapping[str, Any], ids: Ids
) -> Made:
    query, described = {}, path
    for each in operation.get("parameters", []):
        value = _value(chance, each["schema"], schemas, ids, each["name"])
        if each["in"] == "path":
            path = path.replace("{" + each["name"] + "}", quote(_text(value), safe=""))
        elif each.get("required") or chance.random() < 0.6:
            query[each["name"]] = _text(value)
    headers = {"Host": "127.0.0.1:8750"}
    if chance.random() < 0.1:
        headers |= chance.choice(ODD_HEADERS)
    body = b""
    content = operation.get("requestBody", {}).get("content", {})
    if "application/json" in content:
        headers.setdefault("Content-Type", "application/json")
        wanted = _value(chance, content["application/json"]["schema"], schemas, ids)
        body = chance.choice(RAW) if chance.random() < 0.1 else json.dumps(wanted).encode()
    elif method == "post" or method == "put":
        body = chance.choice(RAW)
    address = path + ("?" + urlencode(query, errors="replace") if query else "")
    return Made(method.upper(), described, address, body, headers)


def _text(value: Any) -> str:
    return (value if isinstance(value, str) else json.dumps(value)).encode(errors="replace").decode()


def _value(
    chance: random.Random, schema: Mapping[str, Any], schemas: Mapping[str, Any], ids: Ids, name: str = "", deep: int = 0
) -> Any:
    """Something that fits a schema, more or less; ``name`` is that of the field."""
    if "$ref" in schema:
        return _value(chance, schemas[schema["$ref"].rsplit("/", 1)[1]], schemas, ids, name, deep)
    if chance.random() < 0.02 or deep > 6:
        return chance.choice([None, [], {}, True, chance.choice(TEXTS), chance.choice(NUMBERS), [[[[]]]]])
    if found := schema.get("anyOf") or schema.get("oneOf") or schema.get("allOf"):
        return _value(chance, chance.choice(found), schemas, ids, name, deep)
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return chance.choice(schema["enum"])
    match schema.get("type"):
        case "object":
            wanted, needed = schema.get("properties", {}), schema.get("required", ())
            return {
                key: _value(chance, each, schemas, ids, key, deep + 1)
                for key, each in wanted.items()
                if key in needed or chance.random() < 0.6
            }
        case "array" if "prefixItems" in schema:
            return [_value(chance, each, schemas, ids, name, deep + 1) for each in schema["prefixItems"]]
        case "array":
            many = chance.choice([1, 1, 1, 2, 5, 40, 0])
            return [_value(chance, schema["items"], schemas, ids, name, deep + 1) for _ in range(many)]
        case "integer" | "number":
            if chance.random() < 0.1:
                return chance.choice(NUMBERS)
            return (
                chance.randint(0, 4)
                if name in ("revision", "number", "count", "pick", "rhythm")
                else chance.randint(0, 300_000)
            )
        case "boolean":
            return chance.random() < 0.5
        case "null":
            return None
        case _:
            known = ids.get(ALSO.get(name, name.removesuffix("_id")))
            return known if known and chance.random() < 0.85 else chance.choice(TEXTS)
