"""Reading and writing bench documents: JSON in, a checked `Bench` or the reasons why not."""

from __future__ import annotations

import copy
import json
from typing import Any

from pydantic import ValidationError

from ..boards import Board
from .bench import Bench
from .check import board_problems, cross_check
from .parts import Capture
from .problems import DocumentError, Problem, from_validation
from .upgrade import STEPS

CURRENT_VERSION = 4
MOST_BYTES = 4_000_000  # of a bench, written without blanks
MOST_TEXT = 40_000_000  # of a file, as people may have laid it out


TOO_LARGE = f"the bench is larger than {MOST_BYTES // 1_000_000} MB: take captures or scenarios out."


def bench_from_data(data: Any, captures: tuple[Capture, ...] | None = None) -> Bench:
    """A bench from parsed JSON; `captures`: those that it has, where they do not stand in it. Raises `DocumentError`
    with a pointer and a sentence for each fault."""
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "a bench is a JSON object with “version”, “name” and its parts.")])
    version = data.get("version")
    if type(version) is int and version in STEPS:
        data = copy.deepcopy(data)
    while type(version) is int and version in STEPS:
        data = STEPS[version](data)
        version = data["version"]
    if version != CURRENT_VERSION or isinstance(version, bool):
        said = "has no version" if "version" not in data else f"is version {json.dumps(version)[:40]}"
        raise DocumentError(
            [Problem("/version", f"this document {said}; this program reads versions 1 to {CURRENT_VERSION}.")]
        )
    try:
        bench = Bench.model_validate_json(json.dumps(data))
    except ValidationError as error:
        raise DocumentError(from_validation(data, error)) from None
    if captures:
        bench = bench.model_copy(update={"captures": captures})
    if problems := cross_check(bench):
        raise DocumentError(problems)
    return bench


def _whole(text: str) -> Any:
    def refuse(word: str) -> Any:
        raise ValueError(f"{word} is not JSON")

    return json.loads(text, parse_constant=refuse)


def size_of(bench: Bench) -> int:
    """How long a bench is, written without blanks and with every field; what is edited and what is imported is held
    to the same limit, so that whatever was exported can be opened again."""
    return bench.size


def _data_from(text: str) -> Any:
    if len(text) > MOST_TEXT:
        raise DocumentError([Problem("", f"the file is over {MOST_TEXT // 1_000_000} MB, which no bench needs.")])
    try:
        return _whole(text)
    except json.JSONDecodeError as error:
        raise DocumentError(
            [Problem("", f"this is not JSON: line {error.lineno}, column {error.colno}: {error.msg}.")]
        ) from None
    except (ValueError, RecursionError) as error:
        raise DocumentError([Problem("", f"this is not JSON that can be read: {error}.")]) from None


def bench_from_text(text: str) -> Bench:
    """A bench from JSON text. Raises `DocumentError`; text that is not JSON is refused with its line and column."""
    bench = bench_from_data(_data_from(text))
    if len(text) > MOST_BYTES // 10 and size_of(bench) > MOST_BYTES:  # what is left out is written with every field
        raise DocumentError([Problem("", TOO_LARGE)])
    return bench


def board_from_data(data: Any) -> Board:
    """A board from parsed JSON. Raises `DocumentError` with a pointer and a sentence for each fault."""
    if not isinstance(data, dict):
        raise DocumentError([Problem("", "a board is a JSON object with “id”, “name”, its figures and its pins.")])
    try:
        board = Board.model_validate_json(json.dumps(data))
    except ValidationError as error:
        raise DocumentError(from_validation(data, error)) from None
    if problems := list(board_problems(board)):
        raise DocumentError(problems)
    return board


def board_from_text(text: str) -> Board:
    """A board from JSON text. Raises `DocumentError`."""
    return board_from_data(_data_from(text))


def board_text(board: Board) -> str:
    """The board as JSON text, for people."""
    return json.dumps(board.model_dump(mode="json"), indent=2, ensure_ascii=False) + "\n"


def bench_data(bench: Bench) -> dict[str, Any]:
    """The document as plain JSON data."""
    return bench.model_dump(mode="json")


def bench_text(bench: Bench) -> str:
    """The document as JSON text, for people: two spaces, in the order of the schema."""
    return json.dumps(bench_data(bench), indent=2, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """The JSON Schema of the document."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **Bench.model_json_schema()}
