"""A machine as a map: its states laid out in layers by how far they are from the beginning, its transitions as arrows.

Layers are laid out by networkx (`multipartite_layout`); within a layer states are put near those that lead to them, and
those inside another state below the rest. A state that was moved by hand stays where it was put.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from ...core.document import Machine, State
from .labels import CELL, Label, Point, Raster, place, size

BOX_W, BOX_H = 124, 40
STEP_X, STEP_Y = 248, 124
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
    """Transitions from one state to another: the line, its head, where the words stand; `transitions` are places in the
    machine."""

    d: str
    head: str
    label: Label
    transitions: tuple[int, ...]


@dataclass(frozen=True)
class Map:
    """All of it, in a box of `width` by `height` that begins at `left` and `top`."""

    nodes: tuple[Node, ...]
    frames: tuple[Frame, ...]
    arrows: tuple[Arrow, ...]
    left: float
    top: float
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


@dataclass(frozen=True)
class _Line:
    """A curve (Bézier, of the third degree), as a path and as points that lie close together; and its head."""

    d: str
    head: str
    points: list[Point]


def _curve(a: Point, b: Point, c: Point, e: Point) -> _Line:
    rough = sum(math.dist(one, two) for one, two in ((a, b), (b, c), (c, e)))
    steps = max(int(rough / (CELL / 2)), 8)
    points = []
    for n in range(steps + 1):
        t, s = n / steps, 1 - n / steps
        weights = (s**3, 3 * s * s * t, 3 * s * t * t, t**3)
        points.append(
            (
                sum(weight * one[0] for weight, one in zip(weights, (a, b, c, e), strict=True)),
                sum(weight * one[1] for weight, one in zip(weights, (a, b, c, e), strict=True)),
            )
        )
    d = f"M{a[0]:.1f} {a[1]:.1f} C{b[0]:.1f} {b[1]:.1f} {c[0]:.1f} {c[1]:.1f} {e[0]:.1f} {e[1]:.1f}"
    return _Line(d, _head(*e, math.atan2(e[1] - c[1], e[0] - c[0])), points)


def _line(one: Box, other: Box, bend: float) -> _Line:
    (x1, y1, w1, h1), (x2, y2, w2, h2) = one, other
    if one == other:
        x, y = x1 + w1 / 2 - 30, y1 - h1 / 2
        return _curve((x, y), (x, y - 34), (x + 44, y - 30), (x + 26, y - 2))
    long = math.hypot(x2 - x1, y2 - y1) or 1
    nx_, ny = -(y2 - y1) / long, (x2 - x1) / long  # to the left of the way there: there and back lie apart
    cx, cy = (x1 + x2) / 2 + nx_ * bend, (y1 + y2) / 2 + ny * bend
    sx, sy = _border(x1, y1, cx, cy, w1, h1)
    ex, ey = _border(x2, y2, cx, cy, w2 + 4, h2 + 4)
    third = [(p + 2 * q) / 3 for p, q in ((sx, cx), (sy, cy), (ex, cx), (ey, cy))]
    return _curve((sx, sy), (third[0], third[1]), (third[2], third[3]), (ex, ey))


BENDS = (0, 22, -16, 60, -60, 110, -110, 170, -170, 240)  # beside the usual bend; the first that meets no box is taken


def _clear(line: _Line, boxes: list[Box]) -> int:
    """How many points of a line lie in boxes that are not its own."""
    return sum(
        1
        for x, y in line.points[:: max(len(line.points) // 24, 1)]
        if any(abs(x - b[0]) < b[2] / 2 + 5 and abs(y - b[1]) < b[3] / 2 + 5 for b in boxes)
    )


def _within(machine: Machine, one: str, other: str, boxes: dict[str, Box]) -> _Line | None:
    """Between a state and one of its own, in either direction: straight from border to border, at the nearer side."""
    for parent, child in ((one, other), (other, one)):
        if parent in boxes and child in boxes and machine.state(child).parent == parent:
            (_, fy, _, fh), (x, y, _, h) = boxes[parent], boxes[child]
            side = -1 if y - fy < 0 else 1
            edge, near = (x + 12 * side, fy + side * fh / 2), (x + 12 * side, y + side * (h / 2 + 2))
            start, end = (edge, near) if parent == one else (near, edge)
            step = (end[1] - start[1]) / 3
            return _curve(start, (start[0], start[1] + step), (end[0], end[1] - step), end)
    return None


def _routed(one: Box, other: Box, others: list[Box]) -> _Line:
    """The line between two boxes that meets the fewest of the others."""
    long = math.hypot(other[0] - one[0], other[1] - one[1])
    usual = 46 + 0.16 * max(long - STEP_X, 0)
    best, met = None, 1 << 30
    for more in BENDS:
        line = _line(one, other, usual + more)
        hits = _clear(line, others)
        if hits < met:
            best, met = line, hits
        if not hits or one == other:
            break
    assert best is not None
    return best


def machine_map(machine: Machine, words: list[str]) -> Map:
    """The map of a machine; `words` are what stands at each of its transitions."""
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

    solid = {node.state.id: boxes[node.state.id] for node in nodes}
    rows = []
    for (one, other), transitions in pairs.items():
        within = _within(machine, one, other, boxes)
        if within:
            rows.append((within, tuple(transitions)))
            continue
        mine, theirs = ends(one, other)
        rest = [box for ident, box in solid.items() if ident not in (one, other)]
        rows.append((_routed(mine, theirs, rest), tuple(transitions)))
    width = max([*(node.x + BOX_W / 2 for node in nodes), *(f.x + f.w for f in frames)]) + EDGE + 30
    height = max([*(node.y + BOX_H / 2 for node in nodes), *(f.y + f.h for f in frames)]) + EDGE + 34
    return _lettered(nodes, tuple(frames), rows, words, (width, height))


Rows = list[tuple[_Line, tuple[int, ...]]]


def _lettered(
    nodes: tuple[Node, ...], frames: tuple[Frame, ...], rows: Rows, words: list[str], extent: tuple[float, float]
) -> Map:
    """The map with words at its arrows; it grows where they need room beyond its edges, and is moved to begin at 0."""
    raster = Raster(*extent)
    for node in nodes:
        raster.take((node.x - BOX_W / 2 - 24, node.y - BOX_H / 2 - 2, BOX_W + 32, BOX_H + 4))
    for frame in frames:
        raster.take((frame.x + 8, frame.y + 4, *size([frame.state.name])))
        for y in (frame.y, frame.y + frame.h):
            raster.take((frame.x - 1, y - 1, frame.w + 2, 2))
        for x in (frame.x, frame.x + frame.w):
            raster.take((x - 1, frame.y - 1, 2, frame.h + 2))
    for line, _ in rows:
        raster.draw(line.points)
    labels = {}
    for line, transitions in sorted(rows, key=lambda row: len(row[0].points)):
        labels[transitions] = place(raster, line.points, [words[index] for index in transitions])
    arrows = tuple(Arrow(line.d, line.head, labels[transitions], transitions) for line, transitions in rows)
    seen = [*(label.rect for label in labels.values()), (0.0, 0.0, max(extent[0], 420.0), max(extent[1], 190.0))]
    seen += [(x, y, 0.0, 0.0) for line, _ in rows for x, y in line.points]
    left, top = min(rect[0] for rect in seen), min(rect[1] for rect in seen)
    right, low = max(rect[0] + rect[2] for rect in seen), max(rect[1] + rect[3] for rect in seen)
    return Map(
        nodes, frames, arrows, round(left - 4, 1), round(top - 4, 1), round(right - left + 8), round(low - top + 8)
    )
