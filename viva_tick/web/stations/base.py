"""What a station is: its name, its list on the left, its editor in the middle."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from ...core.document import Bench
from ...core.study import Study


@dataclass(frozen=True)
class StationRequest:
    """What a station is asked to show: a bench, the study of the chosen scenario, what is picked in the list on the
    left and what is chosen of it, how it is looked at; the bench's number. In a preview the editor is not drawn
    again."""

    bench: Bench
    study: Study
    picked: str | None
    preview: bool = False
    chosen: str | None = None
    look: str = "grid"
    bench_id: int = 0


@dataclass(frozen=True)
class Station:
    """`items` are the ids that can be picked (`any_item`: others, too, that are not of the bench); `context` gives the
    templates what they show."""

    id: str
    title: str
    items: Callable[[Bench], list[str]]
    context: Callable[[StationRequest], dict[str, Any]]
    any_item: bool = False
