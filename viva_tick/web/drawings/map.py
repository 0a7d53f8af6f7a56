"""A machine as a map: its states laid out in layers by how far they are from the beginning, its transitions as arrows.

Layers are laid out by networkx (`multipartite_layout`); within a layer states are put near those that lead to them, and
those inside another state below the rest. A state that was moved by hand stays where it was put.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...core.document import Machine, State

BOX_W, BOX_H = 124, 40
STEP_X, STEP_Y = 196, 118
EDGE = 26


@dataclass(frozen=True)
class Node:
    """A state: its middle, its place in the machine, and where it was put: its middle before the map was fitted."""

    state: State
    place: int
    x: float
    y: float
    put: tuple[float, float]


@dataclass(frozen=True)
class Frame:
    """A state with others inside, around them."""

    state: State
    place: int
    x: float
    y: float
    w: float
    h: float


@dataclass(frozen=True)
class Arrow:
    """Transitions from one state to another: the line, its head, where the words go; `transitions` are places in the
    machine."""

    d: str
    head: str
    x: float
    y: float
    transitions: tuple[int, ...]


@dataclass(frozen=True)
class Map:
    """All of it, in a box of `width` by `height`."""

    nodes: tuple[Node, ...]
    frames: tuple[Frame, ...]
    arrows: tuple[Arrow, ...]
    width: float
    height: float


def _laid_out(machine: Machine) -> dict[str, tuple[float, float]]:
    import networkx as nx  # here, for it takes long to load and only a map needs it

    graph = nx.DiGraph()
    leaves = machine.leaves
    graph.add_nodes_from(state.id for state in leaves)
    for transition in machine.transitions:
        inside = [one.id for one in machine.insides(transition.source)] or [transition.source]
        graph.add_edges_from((source, machine.opening(transition.target)) for source in inside)
    first = machine.opening(machine.initial)
    far = nx.single_source_shortest_path_length(graph, first)
    last = max(far.values())
    order = {state.id: number for number, state in enumerate(leaves)}
    layers: dict[int, list[str]] = {}
    for state in leaves:
        layers.setdefault(far.get(state.id, last + 1), []).append(state.id)
    seat: dict[str, float] = {}
    for layer in sorted(layers):

        def near(ident: str) -> tuple[float, int]:
            before = [seat[one] for one in graph.predecessors(ident) if one in seat]
            return (sum(before) / len(before) if before else 0.0, order[ident])

        layers[layer].sort(key=near)
        for number, ident in enumerate(layers[layer]):
            seat[ident] = number - (len(layers[layer]) - 1) / 2
    ordered = nx.DiGraph()
    for layer, idents in sorted(layers.items()):
        ordered.add_nodes_from(idents, layer=layer)
    spots = nx.multipartite_layout(ordered, subset_key="layer", scale=1)
    columns = sorted({round(float(spot[0]), 6) for spot in spots.values()})
    # What stands inside another state has a band of its own below the rest, so that its frame holds nothing else.
    bands = {state.id: state.parent or "" for state in leaves}
    found: dict[str, tuple[float, float]] = {}
    top = 0.0
    for band in sorted(set(bands.values()), key=lambda one: (one != "", one)):
        rows = {
            columns.index(round(float(spots[idents[0]][0]), 6)): [one for one in idents if bands[one] == band]
            for idents in layers.values()
        }
        tallest = max(map(len, rows.values()))
        for column, idents in rows.items():
            for number, ident in enumerate(idents):
                y = top + (number + (tallest - len(idents)) / 2) * STEP_Y + (column % 2) * 14
                found[ident] = (column * STEP_X, y)
        top += tallest * STEP_Y + 26
    return found


def _border(x: float, y: float, to_x: float, to_y: float, w: float, h: float) -> tuple[float, float]:
    """Where the line from the middle of a box towards a point leaves it."""
    dx, dy = to_x - x, to_y - y
    share = min(w / 2 / abs(dx) if dx else math.inf, h / 2 / abs(dy) if dy else math.inf)
    return x + dx * min(share, 1), y + dy * min(share, 1)


def _head(x: float, y: float, angle: float) -> str:
    """The two strokes of an arrow's head."""
    ends = [(x - 9 * math.cos(angle + turn), y - 9 * math.sin(angle + turn)) for turn in (0.42, -0.42)]
    return f"M{ends[0][0]:.1f} {ends[0][1]:.1f} L{x:.1f} {y:.1f} L{ends[1][0]:.1f} {ends[1][1]:.1f}"


Box = tuple[float, float, float, float]  # its middle, width, height


def _near(frame: Box, x: float) -> Box:
    """The part of a frame that is nearest to something at `x`."""
    left, right = frame[0] - frame[2] / 2 + 30, frame[0] + frame[2] / 2 - 30
    return min(max(x, left), right), frame[1], 60.0, frame[3]


def _arrow(one: Box, other: Box, transitions: tuple[int, ...]) -> Arrow:
    (x1, y1, w1, h1), (x2, y2, w2, h2) = one, other
    if one == other:
        x, y = x1 + w1 / 2 - 30, y1 - h1 / 2
        d = f"M{x:.1f} {y:.1f} C{x:.1f} {y - 34:.1f} {x + 44:.1f} {y - 30:.1f} {x + 30:.1f} {y + 8:.1f}"
        return Arrow(d, _head(x + 30, y + 8, math.radians(112)), x + 20, y - 30, transitions)
    long = math.hypot(x2 - x1, y2 - y1) or 1
    bend = 72 + 0.16 * max(long - STEP_X, 0)  # so that the words at its middle clear the boxes
    nx_, ny = -(y2 - y1) / long, (x2 - x1) / long  # to the left of the way there: there and back lie apart
    cx, cy = (x1 + x2) / 2 + nx_ * bend, (y1 + y2) / 2 + ny * bend
    sx, sy = _border(x1, y1, cx, cy, w1, h1)
    ex, ey = _border(x2, y2, cx, cy, w2 + 4, h2 + 4)
    angle = math.atan2(ey - cy, ex - cx)
    mx, my = 0.25 * sx + 0.5 * cx + 0.25 * ex, 0.25 * sy + 0.5 * cy + 0.25 * ey
    return Arrow(f"M{sx:.1f} {sy:.1f} Q{cx:.1f} {cy:.1f} {ex:.1f} {ey:.1f}", _head(ex, ey, angle), mx, my, transitions)


def machine_map(machine: Machine) -> Map:
    """The map of a machine."""
    spots = _laid_out(machine)
    for state in machine.states:
        if state.place is not None and state.id in spots:
            spots[state.id] = (float(state.place[0]), float(state.place[1]))
    left, top = min(x for x, _ in spots.values()), min(y for _, y in spots.values())
    shift_x, shift_y = EDGE + BOX_W / 2 + 20 - min(left, 0), EDGE + BOX_H / 2 + 44 - min(top, 0)
    places = {state.id: number for number, state in enumerate(machine.states)}
    nodes = tuple(
        Node(state, places[state.id], spots[state.id][0] + shift_x, spots[state.id][1] + shift_y, spots[state.id])
        for state in machine.leaves
    )
    boxes = {node.state.id: (node.x, node.y, float(BOX_W), float(BOX_H)) for node in nodes}
    frames = []
    for state in machine.states:
        inside = [boxes[one.id] for one in machine.insides(state.id) if one.id in boxes]
        if inside:
            x0, x1 = min(b[0] for b in inside) - BOX_W / 2 - 16, max(b[0] for b in inside) + BOX_W / 2 + 16
            y0, y1 = min(b[1] for b in inside) - BOX_H / 2 - 30, max(b[1] for b in inside) + BOX_H / 2 + 16
            frames.append(Frame(state, places[state.id], x0, y0, x1 - x0, y1 - y0))
            boxes[state.id] = ((x0 + x1) / 2, (y0 + y1) / 2, x1 - x0, y1 - y0)
    pairs: dict[tuple[str, str], list[int]] = {}
    for number, transition in enumerate(machine.transitions):
        pairs.setdefault((transition.source, transition.target), []).append(number)
    framed = {frame.state.id for frame in frames}

    def ends(one: str, other: str) -> tuple[Box, Box]:
        """The two boxes; of a wide frame only the part that is nearest to the other."""
        mine, theirs = boxes[one], boxes[other]
        if one == other:
            return mine, theirs
        return (_near(mine, theirs[0]) if one in framed else mine), (
            _near(theirs, mine[0]) if other in framed else theirs
        )

    arrows = tuple(_arrow(*ends(one, other), tuple(transitions)) for (one, other), transitions in pairs.items())
    width = max([*(node.x + BOX_W / 2 for node in nodes), *(f.x + f.w for f in frames)]) + EDGE + 30
    height = max([*(node.y + BOX_H / 2 for node in nodes), *(f.y + f.h for f in frames)]) + EDGE + 34
    return Map(nodes, tuple(frames), arrows, max(width, 420), max(height, 190))
