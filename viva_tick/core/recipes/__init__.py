"""Recipes. A new one is an entry in the row of its file; a new file is a name in the row below."""

from __future__ import annotations

from . import blocks, dials, games, levels, modes, moving, rows, switching, timing
from .base import KINDS as ASKED_KINDS
from .base import Ask, Made, Recipe, machine_from, made_from

RECIPES: dict[str, Recipe] = {
    recipe.id: recipe
    for module in (switching, timing, modes, levels, dials, games, rows, moving, blocks)
    for recipe in module.RECIPES
}

__all__ = ["ASKED_KINDS", "RECIPES", "Ask", "Made", "Recipe", "machine_from", "made_from"]
