"""The words that are no longer used where somebody reads: each has another, standard one (see the list of words)."""

from __future__ import annotations

import re
from html import unescape

RETIRED = re.compile(
    r"\bat once, if\b|waits? for nothing|stands inside|opens with\b(?! a)|stops at its ends|lets? (it )?pass\b|believ"
    r"|counted (too often|twice)(?!, of)|false press|stands? still|stood still|in one piece|rounds? by the clock"
    r"|\bla(y|id) beside|\btaken for (?!granted)(press|releas|\{)|\bput (down|over|back)\b|\bbites?\b|\bbitten\b"
    r"|what (can )?hurts?\b|until set-up\b(?! has| ends)|dead band|\bsaid in\b|slow follower|takes its spike"
    r"|switched through|reads what it likes|\bis one off\b|[Rr]est first|[Aa]ct, then ignore|reads volts"
    r"|goes on asking|gives way|who waits\b|leaves alone|the instant until|find me pins|\bPlay it\b|[Tt]ry them all"
    r"|\b[Ss]ketch(es)?\b|\.ino\b|takes for granted|\btakes? (it |them )?out\b|\btaken out\b|from memory|DS4\d{4,}"
    r"|\b1 (presses|states|actions|transitions|checks|periods|events|machines)\b|(?<![\d.,–-])\d{4,} ms\b(?! 0 %)|looking at it"
)
_READ = re.compile(r'(?:aria-label|title|placeholder|alt)="([^"]*)"')
_HIDDEN = re.compile(r"<(script|style)[^>]*>.*?</\1>|\{%.*?%\}|\{#.*?#\}", re.DOTALL)


def of_text(text: str) -> list[str]:
    """What of a text is retired, with a little of what stands around it."""
    return [" ".join(text[max(m.start() - 30, 0) : m.end() + 30].split()) for m in RETIRED.finditer(text)]


def of_page(page: str) -> list[str]:
    """The same of a page: of what is shown, and of what is read out."""
    page = _HIDDEN.sub(" ", page)
    said = [unescape(found) for found in _READ.findall(page)]
    shown = unescape(re.sub(r"\s+", " ", re.sub(r"<[^>]*>", " ", page)))
    return [found for text in (*said, shown) for found in of_text(text)]


def of_program(code: str) -> list[str]:
    """The same of a program: of its comments."""
    return [found for comment in re.findall(r"//(.*)|/\*(.*?)\*/", code) for found in of_text(" ".join(comment))]
