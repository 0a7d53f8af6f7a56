"""Problems in a document: a JSON Pointer (RFC 6901) and a sentence for each."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError


@dataclass(frozen=True)
class Problem:
    """Where, and what is wrong with it and what would be right."""

    pointer: str
    sentence: str

    def __str__(self) -> str:
        return f"{self.pointer or '(the whole document)'}: {self.sentence}"


class DocumentError(ValueError):
    """The document was refused; `problems` says why, one for each fault."""

    def __init__(self, problems: Iterable[Problem]) -> None:
        self.problems = tuple(problems)
        super().__init__("; ".join(str(problem) for problem in self.problems))


def pointer(*steps: str | int) -> str:
    """A JSON Pointer from its steps."""
    return "".join("/" + str(step).replace("~", "~0").replace("/", "~1") for step in steps)


def _shown(value: Any) -> str:
    text = repr(value) if not isinstance(value, str) else f"“{value}”"
    return text if len(text) <= 60 else text[:57] + "…"


def _sentence(error: Any) -> str:
    kind, context, value = error["type"], error.get("ctx", {}), error.get("input")
    match kind:
        case "missing":
            return "is missing."
        case "extra_forbidden":
            return "is not a field of a bench; remove it or correct its name."
        case "greater_than_equal":
            return f"{_shown(value)} is too small; {context['ge']} is the least."
        case "less_than_equal":
            return f"{_shown(value)} is too large; {context['le']} is the most."
        case "multiple_of":
            return f"{_shown(value)} µs is not a whole number of milliseconds."
        case "string_too_short":
            return "must not be empty."
        case "string_too_long":
            return f"is too long; {context['max_length']} characters at most."
        case "string_pattern_mismatch" if "a-z" in context["pattern"]:
            return f"{_shown(value)} will not do: small letters, digits and hyphens, beginning with a letter."
        case "string_pattern_mismatch":
            return "must not contain control characters."
        case "too_long":
            return f"has too many entries; {context['max_length']} at most."
        case "too_short":
            return f"has too few entries; {context['min_length']} at least."
        case "literal_error":
            return f"{_shown(value)} will not do; {context['expected']} would."
        case "union_tag_invalid":
            return f"kind {_shown(context['tag'])} is not known; {context['expected_tags']} are."
        case "union_tag_not_found":
            return "needs a “kind”."
        case _:
            return f"{_shown(value)} will not do: {error['msg'][0].lower()}{error['msg'][1:]}."


def _steps(raw: Any, loc: tuple[str | int, ...]) -> list[str | int]:
    """Pydantic's location without the union tags it mixes in: only steps that the raw document has, and the last."""
    steps: list[str | int] = []
    here: Any = raw
    for number, step in enumerate(loc):
        if (isinstance(here, dict) and step in here) or (
            isinstance(here, list) and isinstance(step, int) and step < len(here)
        ):
            here = here[step]  # type: ignore[index]
        elif number < len(loc) - 1 or not isinstance(here, dict | list):
            continue
        steps.append(step)
    return steps


def from_validation(raw: Any, error: ValidationError) -> list[Problem]:
    """One problem for each fault that the model's validation found."""
    return [Problem(pointer(*_steps(raw, found["loc"])), _sentence(found)) for found in error.errors()]
