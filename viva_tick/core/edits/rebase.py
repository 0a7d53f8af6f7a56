"""An edit that was made against an earlier state of a bench, put on top of what has come since.

Patches point into lists by position, and positions move. What an edit means is the thing that stood there as it was
made: a part, a machine, a state, a task by its id, a scenario by its name, and what has neither (a transition, what is
done to an input, what is expected) by being the same. Each pointer is followed in the earlier bench and led to the same
thing in the later one; where that has gone, the edit is refused."""

from __future__ import annotations

import copy
from typing import Any

import jsonpatch
import jsonpointer

from ..document import Bench, DocumentError, Problem, bench_data


class _Gone(Exception):
    """What a pointer led to is not there any more."""

    def __init__(self, what: str) -> None:
        self.what = what


def _name(thing: Any) -> tuple[str, Any] | None:
    """What a thing in a list is known by; None for one that is known by what it is."""
    if isinstance(thing, dict):
        for field in ("id", "name"):
            if isinstance(thing.get(field), str):
                return field, thing[field]
    return None


def _said(thing: Any) -> str:
    """A thing for reading."""
    if not isinstance(thing, dict):
        return f"“{thing}”"
    if named := _name(thing):
        return f"“{thing.get('name', named[1])}”"
    kind = str(thing.get("kind", "") or (thing.get("on") or {}).get("kind", "") or "row").replace("-", " ")
    of = str(thing.get("input") or thing.get("output") or thing.get("of") or thing.get("source") or "")
    at = f" at {thing['at_us'] / 1000:g} ms" if isinstance(thing.get("at_us"), int) else ""
    return f"the {kind}{f' of “{of}”' if of else ''}{at}"


def _place(before: list[Any], place: int, after: list[Any]) -> int:
    """Where in the later list that stands which stood at a place of the earlier one. Raises `_Gone`."""
    thing = before[place]
    if named := _name(thing):
        field, value = named
        same = [n for n, one in enumerate(after) if isinstance(one, dict) and one.get(field) == value]
        if not same:
            raise _Gone(_said(thing))
        return same[0]
    equals = [n for n, one in enumerate(after) if one == thing]
    ordinal = before[:place].count(thing)
    if ordinal >= len(equals):
        raise _Gone(_said(thing))
    return equals[ordinal]


def _led(path: str, before: Any, after: Any, inserts: bool) -> str:
    """The pointer into the later document that means what `path` means in the earlier one."""
    tokens = jsonpointer.JsonPointer(path).parts
    found: list[str] = []
    for number, step in enumerate(tokens):
        if isinstance(before, list) and isinstance(after, list):
            if step == "-":
                found.append(step)
                break
            place = int(step)
            if inserts and number == len(tokens) - 1:
                found.append(str(_insertion(before, place, after)))
                break
            here = _place(before, place, after)
            found.append(str(here))
            before, after = before[place], after[here]
        else:
            found.append(step)
            if number == len(tokens) - 1:
                break
            before = before.get(step) if isinstance(before, dict) else None
            if not isinstance(after, dict) or step not in after or before is None:
                raise _Gone(f"“{step}”")
            after = after[step]
    return str(jsonpointer.JsonPointer.from_parts(found).path)


def _insertion(before: list[Any], place: int, after: list[Any]) -> int:
    """Where something is put in that was put in at a place of the earlier list: before what stood there, or after what
    stood before it, or at the end."""
    if place < len(before):
        try:
            return _place(before, place, after)
        except _Gone:
            pass
    if place and place <= len(before):
        try:
            return _place(before, place - 1, after) + 1
        except _Gone:
            pass
    return len(after)


def rebased(patch: Any, base: Bench, head: Bench) -> list[dict[str, Any]]:
    """The patch, made against `base`, as it means the same in `head`. Raises `DocumentError` where what it changes has
    gone, or where it never fitted `base`."""
    earlier: Any = bench_data(base)
    later: Any = bench_data(head)
    found: list[dict[str, Any]] = []
    try:
        for given in copy.deepcopy(patch):
            operation: Any = dict(given)
            kind = operation["op"]
            for field in ("from", "path") if "from" in operation else ("path",):
                inserts = field == "path" and kind in ("add", "move", "copy")
                operation[field] = _led(operation[field], earlier, later, inserts)
            earlier = jsonpatch.JsonPatch([given]).apply(earlier, in_place=True)
            later = jsonpatch.JsonPatch([copy.deepcopy(operation)]).apply(later, in_place=True)
            found.append(operation)
    except _Gone as gone:
        sentence = f"{gone.what}, which your edit changes, has been changed or removed meanwhile."
        raise DocumentError([Problem("", sentence)]) from None
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException, TypeError, LookupError, ValueError):
        raise DocumentError([Problem("", "your edit no longer fits the bench.")]) from None
    return found
