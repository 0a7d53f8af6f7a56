"""Ids of the document that are still free."""

from __future__ import annotations


def free_id(wanted: str, taken: set[str]) -> str:
    """`wanted`, or with the first number behind it that makes it new; at most 40 characters."""
    wanted = wanted[:36].rstrip("-")
    if wanted not in taken:
        return wanted
    return next(name for number in range(2, 10_000) if (name := f"{wanted}-{number}") not in taken)


def id_from(name: str, otherwise: str) -> str:
    """An id made of a name: its letters and digits, small, with hyphens between; `otherwise` stands before or for what
    begins with no letter."""
    plain = "".join(letter if letter.isascii() and letter.isalnum() else "-" for letter in name.lower())
    wanted = "-".join(word for word in plain.split("-") if word) or otherwise
    return wanted if wanted[0].isalpha() else f"{otherwise}-{wanted}"
