"""Where the person is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from .stations import STATIONS


@dataclass(frozen=True)
class Location:
    """Where the person is: station, what is picked there, scenario; what of the strip they are looking at; the
    debounce method, or the school, that is compared with the one in use; what is chosen of a machine, and how it is
    looked at; the fault whose run the strip shows; the number of the scenario's
    repeats whose run it shows; whether the scenario's panel is closed, so that what is in it can come later."""

    station: str
    picked: str | None
    scenario: str | None
    windows: tuple[Any, ...] = ()
    beside: str | None = None
    chosen: str | None = None
    look: str = "grid"
    fault: str | None = None
    number: int | None = None
    closed: bool = False

    @staticmethod
    def of(data: Any) -> Location:
        """From what a request says; anything unknown becomes the first that exists, later."""
        said = data if hasattr(data, "get") else {}

        def word(name: str) -> str | None:
            value = said.get(name)
            return value if isinstance(value, str) and value else None

        station = word("station")
        seen = said.get("windows")
        windows = tuple(seen[:2]) if isinstance(seen, list) else ()
        return Location(
            station if station in STATIONS else "wire",
            word("picked"),
            word("scenario"),
            windows,
            word("beside"),
            word("chosen"),
            str(word("look")) if word("look") in ("map", "both") else "grid",
            word("fault"),
            int(number) if (number := str(said.get("number") or "")).isdecimal() and len(number) < 9 else None,
            said.get("closed") in (True, "true"),
        )
