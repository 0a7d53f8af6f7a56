"""The wire list: from where to where, for the person with the screwdriver."""

from __future__ import annotations

from dataclasses import dataclass

from ..document import Bench
from ..electrics import fed_by_pin
from ..units import amps, ohms


@dataclass(frozen=True)
class Wire:
    """One connection, and what goes into it."""

    from_end: str
    to_end: str
    note: str


RAILS = {"ground": "GND", "supply": "+ supply"}


def wires(bench: Bench) -> list[Wire]:
    """Every wire of the bench, inputs first, in the order of the lists."""
    found: list[Wire] = []
    for part in bench.inputs:
        wiring = part.wiring
        found.append(Wire(f"Board {part.pin}", f"{part.name}, leg 1", ""))
        found.append(Wire(f"{part.name}, leg 2", f"Board {RAILS[wiring.contact_to]}", ""))
        match wiring.pull:
            case "internal-up" | "internal-down":
                pull = wiring.pull.replace("internal", "pull")
                found[-2] = Wire(found[-2].from_end, found[-2].to_end, f"held by the board's {pull}")
            case "up":
                found.append(Wire(f"Board {part.pin}", "Board + supply", f"through {ohms(wiring.pull_ohm)}"))
            case "down":
                found.append(Wire(f"Board {part.pin}", "Board GND", f"through {ohms(wiring.pull_ohm)}"))
            case _:
                found[-2] = Wire(found[-2].from_end, found[-2].to_end, "nothing holds this pin: see Wire")
    for output in bench.outputs:
        low = output.active_level == "low"
        match output.kind:
            case "lamp":
                ends = (
                    (f"{output.name}, short leg", f"{output.name}, long leg")
                    if low
                    else (f"{output.name}, long leg", f"{output.name}, short leg")
                )
                through = f"through {ohms(output.resistor_ohm)}" if output.resistor_ohm else "no resistor: see Wire"
                found.append(
                    Wire(f"Board {output.pin}", ends[0], through if fed_by_pin(output) else "its module's input")
                )
                found.append(Wire(ends[1], "Board + supply" if low else "Board GND", ""))
            case "relay":
                found.append(Wire(f"Board {output.pin}", f"{output.name}, IN", f"on when {output.active_level}"))
                feed = "Its own supply +" if output.own_supply else "Board + supply"
                found.append(Wire(feed, f"{output.name}, VCC", f"{amps(output.coil_ua)} while it is on"))
                found.append(Wire("Board GND", f"{output.name}, GND", ""))
                if output.own_supply:
                    found.append(Wire("Its own supply −", "Board GND", "the grounds must be joined"))
            case _:
                found.append(Wire(f"Board {output.pin}", f"{output.name}, {'−' if low else '+'}", ""))
                found.append(
                    Wire(f"{output.name}, {'+' if low else '−'}", "Board + supply" if low else "Board GND", "")
                )
        if output.hold != "none":
            rail = "Board + supply" if output.hold == "up" else "Board GND"
            found.append(Wire(f"Board {output.pin}", rail, "through 10 kΩ: holds it until set-up"))
    return found
