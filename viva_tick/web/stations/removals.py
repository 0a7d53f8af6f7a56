"""What has to go with a machine, or with one of its states."""

from __future__ import annotations

from ...core.document import Bench, ExpectState, Machine, WhenState
from ..patches import Patch, take_out


def removals_of(bench: Bench, at: str, machine: Machine) -> dict[str, Patch]:
    """For each state that can go, the patch that removes it with every transition to it and from it."""
    removals: dict[str, Patch] = {}
    for number, state in enumerate(machine.states):
        if state.id != machine.initial and not machine.insides(state.id):
            rows = enumerate(machine.transitions)
            places = [n for n, transition in rows if state.id in (transition.source, transition.target)]
            gone = Patch({"op": "remove", "path": f"{at}/transitions/{n}"} for n in reversed(places))
            gone += unexpect(bench, machine.id, state.id)
            removals[state.id] = gone + take_out(f"{at}/states/{number}")
    return removals


def unexpect(bench: Bench, machine: str, state: str | None = None) -> Patch:
    """The patch that removes the checks of the scenarios on a machine, or on one of its states."""
    gone = Patch()
    for index, scenario in enumerate(bench.scenarios):
        rows = (("expects", scenario.expects), ("answers", tuple(one.to for one in scenario.answers)))
        for field, ones in rows:
            gone += Patch(
                {"op": "remove", "path": f"/scenarios/{index}/{field}/{number}"}
                for number, one in reversed(list(enumerate(ones)))
                if isinstance(one, ExpectState | WhenState) and one.machine == machine and state in (None, one.state)
            )
    return gone
