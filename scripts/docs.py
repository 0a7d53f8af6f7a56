"""Write the documentation that is made from the code: the document's JSON Schema."""

from __future__ import annotations

import json
from pathlib import Path

from viva_tick.core.document import schema

PATH = Path(__file__).parents[1] / "docs" / "bench.schema.json"

if __name__ == "__main__":
    PATH.write_text(json.dumps(schema(), indent=2, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"wrote {PATH.name}")
