"""Write what is made from the code: the document's JSON Schema, and the drawings of the recipes."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from viva_tick.core.document import schema
from viva_tick.core.recipes import RECIPES
from viva_tick.web.drawings.recipes import FILE, figure_of

ROOT = Path(__file__).parents[1]


def written() -> dict[Path, Any]:
    """Each file, and what stands in it."""
    return {
        ROOT / "docs" / "bench.schema.json": schema(),
        ROOT / "viva_tick" / "web" / "drawings" / FILE: {one.id: figure_of(one) for one in RECIPES.values()},
    }


if __name__ == "__main__":
    for path, data in written().items():
        path.write_text(json.dumps(data, indent=1 if path.name == FILE else 2, ensure_ascii=False) + "\n", "utf-8")
        print(f"wrote {path.name}")
