"""Wait and look again, acting when it is let go: the press is an event only then, and its release in the pass after."""

from __future__ import annotations

from .base import SketchPart
from .look_again import METHOD as AT_ONCE

METHOD = AT_ONCE.variant(
    id="look-release",
    title="Wait, look again, act on release",
    right_when="Right where a thumb may still slide off: nothing happens before it is let go.",
    costs="Costs the same, and the answer comes only when the button is let go.",
    acts_on="release",
    sketch=SketchPart(
        "LookAgainRelease",
        AT_ONCE.sketch.text.replace("struct LookAgain", "struct LookAgainRelease")
        .replace("  LookAgain(", "  LookAgainRelease(")
        .replace("// Wait and look again:", "// Wait and look again, acting when it is let go:")
        .replace("  bool let_go = false;\n", "  bool owed = false;\n  bool let_go = false;\n")
        .replace(
            """\
      return RELEASE;
    }
""",
            """\
      return RELEASE;
    }
    if (owed) {
      owed = false;
      let_go = true;
      return PRESS;
    }
""",
        )
        .replace("    believed = true;\n    return PRESS;\n", "    believed = true;\n    return NO_EDGE;\n")
        .replace("    believed = false;\n    let_go = true;\n", "    believed = false;\n    owed = true;\n"),
        takes="pin",
    ),
)
