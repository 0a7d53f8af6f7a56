"""The one way to change a bench: a JSON Patch (RFC 6902), applied whole or not at all."""

from __future__ import annotations

import copy
from typing import Any

import jsonpatch
import jsonpointer

from ..document import Bench, DocumentError, Problem, bench_data, bench_from_data

MOST_OPERATIONS = 500


def apply_patch(bench: Bench, patch: Any) -> Bench:
    """The bench with the patch applied and checked whole. Raises `DocumentError`; the bench given never changes."""
    if not isinstance(patch, list) or not all(isinstance(operation, dict) for operation in patch):
        raise DocumentError([Problem("", "an edit is a list of operations (RFC 6902).")])
    if len(patch) > MOST_OPERATIONS:
        raise DocumentError([Problem("", f"an edit has {MOST_OPERATIONS} operations at most.")])
    try:
        changed = jsonpatch.JsonPatch(copy.deepcopy(patch)).apply(bench_data(bench), in_place=False)
    except jsonpatch.JsonPatchTestFailed as error:
        raise DocumentError([Problem("", f"a test in the edit failed: {_short(error)}")]) from None
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError, ValueError) as error:
        where = next((str(op.get("path", "")) for op in patch), "")
        raise DocumentError([Problem(where[:200], f"the edit does not fit the bench: {_short(error)}")]) from None
    return bench_from_data(changed)


def _short(error: Exception) -> str:
    text = " ".join(str(error).split())
    return text[:200] + ("" if text.endswith(".") else ".")
