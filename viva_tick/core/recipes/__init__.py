"""Recipes. A new one is an entry in the row of its file; a new file is a name in the row below."""

from __future__ import annotations

from . import levels, modes, switching, timing
from .base import Ask, Recipe, free_id, machine_from

RECIPES: dict[str, Recipe] = {
    recipe.id: recipe for module in (switching, timing, modes, levels) for recipe in module.RECIPES
}

__all__ = ["RECIPES", "Ask", "Recipe", "free_id", "machine_from"]
