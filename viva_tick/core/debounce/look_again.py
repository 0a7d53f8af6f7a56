"""Wait and look again: on a press stop, look once more, act, stand still until it is let go, stop, look once more.

All of it is done inside the pass: nothing else is read meanwhile. A press that is gone at the second look is none.
"""

from __future__ import annotations

from typing import Any

import numpy as np

from .base import FAR, NO_EDGE, PRESS, Method, SketchPart, Stepper, Times, Walk


class LookAgainStepper(Stepper):
    """Given only what second looks saw; the engine stops the loop for them."""

    __slots__ = ()

    def step(self, now_ms: int, pressed: bool) -> int:
        """See `Stepper.step`: `pressed` is the second look's reading."""
        if not pressed or self.believed:
            return NO_EDGE
        self.believed = True
        return PRESS


class LookAgainWalk(Walk):
    """The same over arrays: at most one look waits at a time, and the loop sleeps until it is done."""

    def __init__(self, *rest: Any) -> None:
        super().__init__(*rest)
        self.look = np.full(self.believed.shape, FAR, dtype=np.int32)
        self.awake = np.zeros(self.believed.shape, dtype=np.int32)

    def _looks(self, until: Times, pressed: bool) -> Any:
        """The looks that fall before `until`: where they believe what they see."""
        due = self.look < until
        taken = due & (self.believed != pressed)
        np.copyto(self.awake, self.look, where=due)
        np.copyto(self.believed, pressed, where=taken)
        np.copyto(self.look, FAR, where=due)
        return taken

    def segment(self, edge: Times, until: Times, pressed: bool) -> tuple[Any, Any]:
        """See `Walk.segment`."""
        at = self.look.copy()
        early = self._looks(until, pressed)
        begin = np.maximum(edge, self.awake)
        starts = (self.believed != pressed) & (self.look == FAR) & (begin < until)
        np.copyto(self.look, begin + self.wait_ms * 1000, where=starts)
        np.copyto(at, self.look, where=starts)
        late = self._looks(until, pressed)
        return early | late, at


FINISH = """\
  void finish(uint32_t wait) {
    if (!believed) return;
    do {
      while (pressed()) {}
      delay(wait);
    } while (pressed());
"""


def looking_sketch(name: str, note: str, owes: str, sees: str, finish: str, ends: str) -> SketchPart:
    """A method that looks again, in C++: what it is called and does, what it `owes` from before, what it does as it
    `sees` a press, how it stands still until that is over (`finish`), and what is to be told after that (`ends`)."""
    fields = "".join(f"  bool {field} = false;\n" for field in dict.fromkeys(("believed", ends, "let_go")))
    return SketchPart(
        name,
        f"""\
// Wait and look again{note}: everything stops for the wait, and until the button is let go.
struct {name} {{
  const uint8_t pin;
  const uint8_t on_level;
{fields}
  {name}(uint8_t pin_, uint8_t on_level_) : pin(pin_), on_level(on_level_) {{}}

  bool pressed() const {{ return digitalRead(pin) == on_level; }}

  Edge step(uint32_t, bool reading, uint32_t wait) {{
    if (let_go) {{
      let_go = false;
      return RELEASE;
    }}
{owes}    if (!reading) return NO_EDGE;
    delay(wait);
    if (!pressed()) return NO_EDGE;
{sees}  }}

{finish}    believed = false;
    {ends} = true;
  }}
}};
""",
        takes="pin",
    )


METHOD = Method(
    id="look-again",
    title="Wait, look again",
    sentence="How long does the loop stop before it looks again?",
    right_when="Right for a first try with a single button: easy to write, and it believes no spike.",
    costs="Costs everything else twice an interval, and for as long as the button is held down.",
    statistic="settle",
    limits_us=(0, 1_000_000),
    default_us=20_000,
    blocks=True,
    by="looking",
    make=LookAgainStepper,
    walk=LookAgainWalk,
    sketch=looking_sketch("LookAgain", "", "", "    believed = true;\n    return PRESS;\n", FINISH, "let_go"),
)
