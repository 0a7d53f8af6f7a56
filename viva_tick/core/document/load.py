"""Reading and writing bench documents: JSON in, a checked `Bench` or the reasons why not."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from .bench import Bench
from .check import cross_check
from .problems import DocumentError, Problem, from_validation

CURRENT_VERSION = 1
MOST_BYTES = 4_000_000


def bench_from_data(data: Any) -> Bench:
    """A bench from parsed JSON. Raises `DocumentError` with a pointer and a sentence for each fault."""
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "a bench is a JSON object with “version”, “name” and its parts.")])
    version = data.get("version")
    if version != CURRENT_VERSION or isinstance(version, bool):
        said = "has no version" if "version" not in data else f"is version {json.dumps(version)[:40]}"
        raise DocumentError(
            [Problem("/version", f"this document {said}; this program reads version {CURRENT_VERSION}.")]
        )
    try:
        bench = Bench.model_validate_json(json.dumps(data))
    except ValidationError as error:
        raise DocumentError(from_validation(data, error)) from None
    if problems := cross_check(bench):
        raise DocumentError(problems)
    return bench


def _whole(text: str) -> Any:
    def refuse(word: str) -> Any:
        raise ValueError(f"{word} is not JSON")

    return json.loads(text, parse_constant=refuse)


def bench_from_text(text: str) -> Bench:
    """A bench from JSON text. Raises `DocumentError`; text that is not JSON is refused with its line and column."""
    if len(text) > MOST_BYTES:
        raise DocumentError([Problem("", f"the file is over {MOST_BYTES // 1_000_000} MB, which no bench needs.")])
    try:
        data = _whole(text)
    except json.JSONDecodeError as error:
        raise DocumentError(
            [Problem("", f"this is not JSON: line {error.lineno}, column {error.colno}: {error.msg}.")]
        ) from None
    except (ValueError, RecursionError) as error:
        raise DocumentError([Problem("", f"this is not JSON that can be read: {error}.")]) from None
    return bench_from_data(data)


def bench_data(bench: Bench) -> dict[str, Any]:
    """The document as plain JSON data."""
    return bench.model_dump(mode="json")


def bench_text(bench: Bench) -> str:
    """The document as JSON text, for people: two spaces, in the order of the schema."""
    return json.dumps(bench_data(bench), indent=2, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """The JSON Schema of the document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Bench.model_json_schema()}
