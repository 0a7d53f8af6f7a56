"""Which method for an input, at which interval, and why: the shortest wait among those that may be taken."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..contacts import bounce_figures
from ..debounce import METHODS, Method
from ..document import Bench, ContactLine, TapTiming
from ..electrics import filter_of
from ..units import ms
from .advice import Advice, advise, quick_sweeps, shortest_tap_us, sweep_input
from .evaluate import Swept

LONG_WIRE_CM = 100  # over a metre a wire picks up spikes that a method without a wait would count (common practice)


@dataclass(frozen=True)
class Choice:
    """One method for one input. `advice` is None without a safe window; `wait_us` is (median, 95 %, worst) at the
    advised interval; `against` says why it is not to be taken here, empty where nothing speaks against it."""

    method: str
    advice: Advice | None
    wait_us: tuple[int, int, int]
    against: str

    @property
    def stands(self) -> bool:
        """Whether it may be taken."""
        return self.advice is not None and not self.against


@dataclass(frozen=True)
class Decision:
    """The choices by method, the best and the next best, and why, in two sentences."""

    choices: dict[str, Choice]
    best: Choice | None
    following: Choice | None
    why: str


def _against(bench: Bench, line: ContactLine, method: Method) -> str:
    alone = len(bench.contacts) == 1 and not bench.firmware.tasks and bench.firmware.watchdog.mode == "off"
    if method.blocks and not alone:
        return "it holds the loop for everything else on this bench"
    if method.id.startswith("shared-") and len(bench.contacts) > 1:
        return "one timer for all makes each input deafen the others"
    pin = bench.the_board.pin(line.pin)
    if method.by == "interrupt" and (pin is None or "interrupt" not in pin.can):
        return f"{line.pin} cannot interrupt"
    if method.id in ("act-ignore", "shared-ignore", "interrupt") and line.wiring.wire_cm > LONG_WIRE_CM:
        return "on so long a wire a spike would count as a press"
    return ""


def _waits(swept: Swept, advice: Advice | None) -> tuple[int, int, int]:
    if advice is None:
        return 0, 0, 0
    near = min(range(len(swept.interval_us)), key=lambda n: abs(int(swept.interval_us[n]) - advice.advised_us))
    median, p95, worst = (int(us) for us in swept.wait_us[near])
    return median, p95, worst


def choices(bench: Bench, input_id: str, period_us: int) -> dict[str, Choice]:
    """Every method that has an interval, at its advised one."""
    line = bench.contact(input_id)
    tolerated = bench.taps.get(input_id, TapTiming()).per_thousand
    found: dict[str, Choice] = {}
    methods = [one for one in METHODS.values() if one.has_interval and not one.family]
    for method, swept in zip(methods, quick_sweeps(bench, input_id, methods, period_us), strict=True):
        advice = advise(swept, tolerated)
        found[method.id] = Choice(method.id, advice, _waits(swept, advice), _against(bench, line, method))
    return found


def decide(bench: Bench, input_id: str, period_us: int) -> Decision:
    """The method and interval to take. Nothing is advised for a contact that does not bounce."""
    line = bench.contact(input_id)
    rc = filter_of(line, bench.the_board)
    if rc is not None and not rc.schmitt:
        why = "Behind its capacitor the edge is slow, and a plain input chatters on it: first take a Schmitt input."
        return Decision({}, None, None, why)
    every = choices(bench, input_id, period_us)
    figures = bounce_figures(bench, line)
    if not figures.bounces:
        return Decision(every, None, None, f"{line.name} does not bounce: accept every change at once.")
    standing = sorted((one for one in every.values() if one.stands), key=_rank)
    if not standing:
        return Decision(every, None, None, _no_window(bench, input_id, figures.longest_settle_us))
    best = _in_full(bench, standing[0], input_id, period_us)
    # The next best is of another school: one that waits where the best does not, or the other way round.
    others = [one for one in standing[1:] if (one.wait_us[0] >= 2000) != (best.wait_us[0] >= 2000)] or standing[1:]
    following = others[0] if others else None
    every[best.method] = best
    return Decision(every, best, following, _why(best, following, line))


def _in_full(bench: Bench, one: Choice, input_id: str, period_us: int) -> Choice:
    """The same from the sample that the chart shows, so that both advise the same interval."""
    swept = sweep_input(bench, input_id, one.method, period_us)
    advice = advise(swept, bench.taps.get(input_id, TapTiming()).per_thousand)
    return replace(one, advice=advice, wait_us=_waits(swept, advice)) if advice else one


def _rank(one: Choice) -> tuple[bool, int]:
    """What holds the loop comes last; then by the typical wait, in whole milliseconds."""
    return METHODS[one.method].blocks, one.wait_us[0] // 1000


def _why(best: Choice, following: Choice | None, line: ContactLine) -> str:
    assert best.advice is not None
    method = METHODS[best.method]
    at = f"{method.title} at {ms(best.advice.advised_us)}"
    first = f"{at} answers in {ms(best.wait_us[0])} (worst {ms(best.wait_us[2])}) and keeps a margin on both sides."
    if following is None or following.advice is None:
        return first
    other = METHODS[following.method]
    when = "if spikes reach the wire" if following.wait_us[0] > best.wait_us[0] else "where the press must act at once"
    return f"{first} {other.title} at {ms(following.advice.advised_us)} is next; prefer it {when}."


def _no_window(bench: Bench, input_id: str, settle_us: int) -> str:
    shortest = shortest_tap_us(bench, input_id)
    asked = bench.taps.get(input_id, TapTiming()).hold_us
    tap_us = min(asked, shortest[0]) if shortest else asked
    return (
        f"No interval is safe: it bounces for up to {ms(settle_us)} and must follow taps of {ms(tap_us)}. Another "
        "switch, a capacitor with a Schmitt input, or slower taps would open a window."
    )
