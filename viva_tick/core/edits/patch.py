"""The one way to change a bench: a JSON Patch (RFC 6902), applied whole or not at all."""

from __future__ import annotations

import copy
import json
from typing import Any

import jsonpatch
import jsonpointer

from ..document import MOST_BYTES, TOO_LARGE, Bench, DocumentError, Problem, bench_from_data, size_of

MOST_OPERATIONS = 500


def apply_patch(bench: Bench, patch: Any) -> Bench:
    """The bench with the patch applied and checked whole. Raises `DocumentError`; the bench given never changes."""
    if not isinstance(patch, list) or not all(isinstance(operation, dict) for operation in patch):
        raise DocumentError([Problem("", "an edit is a list of operations (RFC 6902).")])
    if len(patch) > MOST_OPERATIONS:
        raise DocumentError([Problem("", f"an edit has {MOST_OPERATIONS} operations at most.")])
    # What leaves the captures alone need not go through them.
    named = [str(operation.get(field, "/")) for operation in patch for field in ("path", "from")]
    apart = not any(path in ("", "/captures") or path.startswith("/captures/") for path in named)
    try:
        data = json.loads(bench.bare_text)
        if not apart:
            data["captures"] = [json.loads(capture.text) for capture in bench.captures]
        changed = _applied(data, copy.deepcopy(patch))
    except jsonpatch.JsonPatchTestFailed as error:
        raise DocumentError([Problem("", f"a test in the edit failed: {_short(error)}")]) from None
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, KeyError, ValueError) as error:
        where = next((str(op.get("path", "")) for op in patch), "")
        raise DocumentError([Problem(where[:200], f"the edit does not fit the bench: {_short(error)}")]) from None
    result = bench_from_data(changed, bench.captures if apart else None)
    if size_of(result) > MOST_BYTES and size_of(result) > size_of(bench):
        raise DocumentError([Problem("", TOO_LARGE)])
    return result


def _applied(data: Any, patch: list[Any]) -> Any:
    if not any(operation.get("op") == "copy" for operation in patch):
        return jsonpatch.JsonPatch(patch).apply(data, in_place=True)
    # Copies can double the document at each step, so its size is watched as they are made.
    for operation in patch:
        data = jsonpatch.JsonPatch([operation]).apply(data, in_place=True)
        if len(json.dumps(data)) > MOST_BYTES:
            raise ValueError(f"it makes the bench larger than {MOST_BYTES // 1_000_000} MB")
    return data


def _short(error: Exception) -> str:
    text = " ".join(str(error).split())
    return text[:200] + ("" if text.endswith(".") else ".")
