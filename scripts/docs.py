"""Write what is made from the code: the document's JSON Schema, the drawings of the recipes, a bench for each finding."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from tests.core.finding_cases import CASES
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_cases import PACE_CASES
from tests.core.repeat_cases import REPEAT_CASES
from viva_tick.core.document import Bench, DocumentError, bench_data, bench_from_data, schema
from viva_tick.core.recipes import RECIPES
from viva_tick.web.drawings.recipes import FILE, figure_of

ROOT = Path(__file__).parents[1]


def bare(value: Any) -> Any:
    """A document without what is as it is by default, but with what tells kinds apart."""
    if isinstance(value, BaseModel):
        fields = type(value).model_fields
        keep = {name: getattr(value, name) for name in fields}
        return {
            name: bare(one)
            for name, one in keep.items()
            if name in ("kind", "version")
            or fields[name].is_required()
            or one != fields[name].get_default(call_default_factory=True)
        }
    if isinstance(value, dict):
        return {str(name): bare(one) for name, one in value.items()}
    return [bare(one) for one in value] if isinstance(value, list | tuple) else value


def finding_benches() -> dict[str, Any]:
    """By code the smallest bench of those that the checks are tested with, without what is as it is by default."""
    found: dict[str, Any] = {}
    cases: list[tuple[str, Bench]] = [(code, bench) for code, bench, *_ in (*CASES, *PACE_CASES)]
    cases += [(code, bench) for code, bench, _, _ in HAZARD_CASES]
    for code, bench in (*cases, *REPEAT_CASES):
        data = bare(bench)
        try:
            same = bench_from_data(data) == bench
        except DocumentError:
            same = False
        data = data if same else bench_data(bench)
        if code not in found or len(str(data)) < len(str(found[code])):
            found[code] = data
    return dict(sorted(found.items()))


def written() -> dict[Path, Any]:
    """Each file, and what stands in it."""
    return {
        ROOT / "docs" / "bench.schema.json": schema(),
        ROOT / "docs" / "finding-benches.json": finding_benches(),
        ROOT / "viva_tick" / "web" / "drawings" / FILE: {one.id: figure_of(one) for one in RECIPES.values()},
    }


if __name__ == "__main__":
    for path, data in written().items():
        path.write_text(
            json.dumps(
                data,
                indent=None if path.name == "finding-benches.json" else 1 if path.name == FILE else 2,
                ensure_ascii=False,
            )
            + "\n",
            "utf-8",
        )
        print(f"wrote {path.name}")
