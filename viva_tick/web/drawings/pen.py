"""The pen: what a circuit is drawn with. Everything that is written goes through it, so everything is escaped.

The sheet is 330 by 182: the supply along y = 20, ground along y = 160, the pin's wire along y = 90.
"""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup, escape

WIDTH, HEIGHT = 330, 182
SUPPLY_Y, GROUND_Y, NODE_Y = 20, 160, 90


@dataclass(frozen=True)
class Value:
    """A value that can be clicked and typed over: where it stands in the document, and how it is read."""

    path: str
    reads: str
    raw: object
    label: str


class Pen:
    """Draws one figure. Coordinates are the sheet's units; names in `classes` and `css` are the style sheet's."""

    def __init__(self, label: str, classes: str = "", height: int = HEIGHT, width: int = WIDTH) -> None:
        self.label = label
        self.classes = classes
        self.width, self.height = width, height
        self._parts: list[str] = []

    def _add(self, drawn: str, *given: object) -> Pen:
        """A piece, with everything that it is given escaped."""
        self._parts.append(drawn.format(*map(escape, given)))
        return self

    def path(self, d: str, css: str = "wire") -> Pen:
        """A line."""
        return self._add('<path class="{}" d="{}"/>', css, d)

    def circle(self, x: float, y: float, r: float, css: str = "thing") -> Pen:
        """A circle."""
        return self._add('<circle class="{}" cx="{}" cy="{}" r="{}"/>', css, x, y, r)

    def box(self, x: float, y: float, w: float, h: float, css: str = "thing", rx: float = 5) -> Pen:
        """A box."""
        return self._add('<rect class="{}" x="{}" y="{}" width="{}" height="{}" rx="{}"/>', css, x, y, w, h, rx)

    def text(self, x: float, y: float, words: object, css: str = "rail-text") -> Pen:
        """A word or a number."""
        return self._add('<text class="{}" x="{}" y="{}">{}</text>', css, x, y, words)

    def value(self, x: float, y: float, words: str, value: Value | None, css: str = "value-text") -> Pen:
        """A number that can be clicked and typed over, or a plain one where there is nothing to change."""
        if value is None:
            return self.text(x, y, words, css)
        wide = 8.2 * len(words) + 8
        left = x - 4 if "is-end" not in css and "is-middle" not in css else x - wide + 4
        if "is-middle" in css:
            left = x - wide / 2
        self._add(
            '<g class="typed" role="button" tabindex="0" id="v{}" data-edit="{}" data-reads="{}" data-raw="{}" '
            'aria-label="{}: {}. Type another"><rect x="{}" y="{}" width="{}" height="16" rx="3"/>',
            *(value.path, value.path, value.reads, value.raw, value.label, words, left, y - 12, wide),
        )
        return self._add('<text class="{}" x="{}" y="{}">{}</text></g>', css, x, y, words)

    def rails(self, supply: str, left: float = 20, right: float = 250) -> Pen:
        """Supply and ground."""
        self.path(f"M{left} {SUPPLY_Y} H{right} M{left} {GROUND_Y} H{right}", "rail")
        return self.text(left, 13, f"supply {supply}").text(left, 176, "ground")

    def pin(self, pin: str, x: float = 262, y: float = 76) -> Pen:
        """The board's pin."""
        return self.box(x, y, 56, 28, "pin-box", 4).text(x + 28, y + 19, pin, "pin-text")

    def resistor(self, x: float, y: float, css: str = "resistor run") -> Pen:
        """Upright, from (x, y) 54 down."""
        return self.path(f"M{x} {y} v6 l6 3.5 l-12 7 l12 7 l-12 7 l12 7 l-12 7 l6 3.5 v6", css)

    def lying_resistor(self, x: float, y: float, css: str = "resistor run") -> Pen:
        """From (x, y) 45 to the right."""
        return self.path(f"M{x} {y} h5 l3.5 -6 l7 12 l7 -12 l7 12 l7 -12 l3.5 6 h5", css)

    def contact(self, x: float, y: float, touching: bool, css: str = "") -> Pen:
        """Upright, from (x, y) 34 down."""
        blade = f"M{x} {y} V{y + 34}" if touching else f"M{x} {y + 34} L{x - 18} {y + 6}"
        self._add('<g class="contact-drawing {}">', css)
        return self.circle(x, y, 3.2, "end").circle(x, y + 34, 3.2, "end").path(blade, "blade").close()

    def lamp(self, x: float, y: float) -> Pen:
        """A lamp about (x, y)."""
        return self.circle(x, y, 17).path(
            f"M{x - 12} {y - 12} L{x + 12} {y + 12} M{x + 12} {y - 12} L{x - 12} {y + 12}", "thing-lines"
        )

    def open(self, css: str, **data: str) -> Pen:
        """Begin a group; `data` become data attributes."""
        self._add('<g class="{}"', css)
        for name, value in data.items():
            self._add(' data-{}="{}"', name.replace("_", "-"), value)
        return self._add(">")

    def title(self, words: str) -> Pen:
        """What the group says under the pointer."""
        return self._add("<title>{}</title>", words)

    def close(self) -> Pen:
        """End a group."""
        return self._add("</g>")

    def svg(self) -> Markup:
        """The drawing."""
        drawn = Markup("".join(self._parts))  # noqa: S704 - whatever a piece was given, `_add` escaped
        return Markup('<svg class="circuit {}" viewBox="0 0 {} {}" role="group" aria-label="{}">{}</svg>').format(
            self.classes, self.width, self.height, self.label, drawn
        )


@dataclass(frozen=True)
class Figure:
    """A drawing with what stands under it: a word, and the rest of the sentence. `odd`: it is not as it should be."""

    svg: Markup
    head: str
    caption: str
    odd: str = ""
    held: Figure | None = None
