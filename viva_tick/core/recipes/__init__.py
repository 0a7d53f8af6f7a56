"""Recipes. A new one is a new file here and a name in the row below."""

from __future__ import annotations

from . import follow, toggle
from .base import Recipe, free_id, machine_from

RECIPES: dict[str, Recipe] = {module.RECIPE.id: module.RECIPE for module in (toggle, follow)}

__all__ = ["RECIPES", "Recipe", "free_id", "machine_from"]
