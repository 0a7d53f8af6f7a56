"""The electrics, against a nodal analysis in matrix form, scipy, the published series, the data sheet's figures."""

from __future__ import annotations

import itertools
import unittest
from dataclasses import replace
from random import Random

import eseries
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import optimize, signal

from tests.depth import DEPTH
from viva_tick.core.boards import boards
from viva_tick.core.contacts import Filter, pin_levels
from viva_tick.core.document import Bench, ContactLine, DocumentError, Wiring, bench_data, bench_from_data
from viva_tick.core.document.parts import (
    Button,
    ButtonModule,
    KeyMatrix,
    Lamp,
    LevelSensor,
    LightSensor,
    Point,
    Potentiometer,
    Solenoid,
    TemperatureSensor,
    VoltageSensor,
    VoltPoint,
)
from viva_tick.core.electrics import (
    E12,
    E24,
    HIGH,
    LOW,
    Branch,
    Circuit,
    at_least,
    at_most,
    base_ohm_for,
    base_ua,
    both_states,
    circuit_of,
    counts_of,
    ghost_example,
    keys_seen,
    lamp_legs,
    level_of,
    mv_of,
    pin_mv,
    pin_state,
    pull_window,
    range_of,
    scale,
    sensor_ohm,
    settle_us,
    value_at,
)
from viva_tick.core.engine import Kind, SkippingEngine
from viva_tick.core.sweep import doubled_rate
from viva_tick.core.units import amps, ms, ohms, span, volts
from viva_tick.demo import demo_bench

BOARD = boards()["mid-8bit-5v"]


def line(**wiring: object) -> ContactLine:
    return Button(id="b", name="B", pin="D2", wiring=Wiring(**wiring)).contacts("/inputs/0")[0]  # type: ignore[arg-type]


def circuit(**wiring: object) -> Circuit:
    return circuit_of(line(**wiring), BOARD)


def nodal(made: Circuit, touching: bool, pulls: tuple[float, ...], leak_a: float) -> tuple[float, float]:
    """(pin V, contact A) by Kirchhoff's current law in matrix form: nodes supply, source, pin; ground is the reference.

    Supply and source are ideal, so their rows say their voltages; the pin's row sums the currents that leave it.
    """
    supply_v, source_v = BOARD.logic_mv / 1000, made.source_mv / 1000
    matrix = np.eye(3)
    matrix[2, 2] = 0.0
    right = np.array([supply_v, source_v, -leak_a])

    def branch(column: int | None, ohm: float) -> None:
        matrix[2, 2] += 1 / ohm
        if column is not None:
            matrix[2, column] -= 1 / ohm

    for held, ohm in zip(made.held, pulls, strict=True):
        branch(0 if held.rail == "supply" else None, ohm)
    joined = made.contact if touching else made.other
    if joined:
        branch(1 if joined == "supply" else None, 0.1)
    pin_v = float(np.linalg.solve(matrix, right)[2])
    joined_v = source_v if joined == "supply" else 0.0
    return pin_v, abs(pin_v - joined_v) / 0.1 if joined else 0.0


rails = st.sampled_from(["ground", "supply"])
ohm = st.floats(1, 1e7)
branches = st.builds(
    lambda rail, a, b, inside: Branch(rail, (min(a, b), max(a, b)), inside), rails, ohm, ohm, st.booleans()
)
circuits = st.builds(
    Circuit,
    contact=st.none() | rails,
    other=st.none() | rails,
    held=st.lists(branches, max_size=2).map(tuple),
    closed_at_rest=st.booleans(),
    stuck=st.just(False),
    shorts=st.just(False),
    wasted_ohm=st.just(0),
    source_mv=st.sampled_from([3_300, 5_000]),
)


class Noise(unittest.TestCase):
    def test_an_open_wire_turns_over_the_more_the_longer_it_is_and_with_a_hand_at_it(self) -> None:
        def turned(cm: int, touched: bool, pull: str = "none") -> list[int]:
            part = {"kind": "open-wire", "id": "bare", "name": "Bare", "pin": "D2"}
            touch = [{"kind": "touch", "input": "bare", "at_us": 1_000_000, "hold_us": 500_000}] if touched else []
            bench = bench_from_data({
                "version": 4, "name": "Bare", "board": "mid-8bit-5v",
                "inputs": [{**part, "wiring": {"pull": pull, "wire_cm": cm}}],
                "scenarios": [{"name": "run", "length_us": 3_000_000, "stimuli": touch}],
            })  # fmt: skip
            return SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.READING, "bare").times_us

        counts = [len(turned(cm, touched=False)) for cm in (2, 10, 30, 60)]
        self.assertEqual(counts, sorted(counts))
        self.assertGreater(counts[-1], 5 * counts[0])
        held = [at for at in turned(2, touched=True) if 1_000_000 <= at < 1_500_000]
        apart = [late - early for early, late in itertools.pairwise(held)]
        self.assertEqual(len(held), 50)  # both ways of 50 Hz, for half a second
        self.assertLess(max(apart) - min(apart), 200)  # but for the pass that reads it
        self.assertEqual([at for at in turned(60, touched=True, pull="internal-up") if at > 70_000], [])

    def test_keys_whose_columns_nothing_holds_press_themselves(self) -> None:
        keys = {"kind": "matrix", "id": "keys", "name": "Keys", "rows": ["A0", "A1"], "columns": ["B0", "B3"]}
        for set_up, pull, own in (({}, "internal-up", False), ({"enables_pulls": False}, "internal-up", True),
                                  ({"enables_pulls": False}, "up", False), ({}, "none", True)):  # fmt: skip
            bench = bench_from_data({
                "version": 4, "name": "Keys", "board": "dip-8bit-5v", "inputs": [{**keys, "pull": pull}],
                "firmware": {"set_up": set_up, "readings": {"keys": {"kind": "scan", "interval_us": 0}}},
                "scenarios": [{"name": "run", "length_us": 1_000_000}],
            })  # fmt: skip
            seen = SkippingEngine().run(bench, bench.scenarios[0]).trace.signal(Kind.CLEANED, "keys")
            self.assertEqual(len(seen.values) > 1, own, (set_up, pull))


class Nodal(unittest.TestCase):
    @settings(max_examples=400 * DEPTH)
    @given(circuits, st.booleans())
    def test_voltages_currents_and_verdicts_are_kirchhoffs(self, made: Circuit, touching: bool) -> None:
        state = pin_state(made, BOARD, touching)
        if not made.held and (made.contact if touching else made.other) is None:
            self.assertEqual(state.verdict, "floats")
            return
        corners = itertools.product(*(branch.ohm for branch in made.held))
        found = [nodal(made, touching, corner, leak) for corner in corners for leak in (-1e-6, 1e-6)]
        lowest, highest = (f([v for v, _ in found]) for f in (min, max))
        np.testing.assert_allclose(state.pin_mv, [1000 * lowest, 1000 * highest], rtol=1e-7, atol=1e-5)
        amperes = [1e6 * f([a for _, a in found]) for f in (min, max)]
        np.testing.assert_allclose(state.contact_ua, amperes, rtol=1e-5, atol=2e-2)
        # DS40002061B (from memory): low up to 0.3 Vcc, high from 0.6 Vcc.
        wanted = "low" if highest <= 1.5 else "high" if lowest >= 3.0 else "undefined"
        if min(abs(highest - 1.5), abs(lowest - 3.0)) > 1e-6:
            self.assertEqual(state.verdict, wanted)
            self.assertEqual(level_of(made, BOARD, touching), {"low": LOW, "high": HIGH}.get(wanted, -1))

    def test_a_220_ohm_pull_wastes_23_ma(self) -> None:
        # Common practice: 220 Ω as a pull wastes 23 mA at 5 V on each press.
        _, pressed = both_states(circuit(pull="up", pull_ohm=220), BOARD)
        self.assertAlmostEqual(pressed.contact_ua[1] / 1000, 22.7, delta=0.1)

    def test_the_internal_pull_up_holds_and_gives(self) -> None:
        # DS40002061B (from memory): 20 to 50 kΩ, leakage 1 µA, low to 0.3 Vcc, high from 0.6 Vcc.
        released, pressed = both_states(circuit(), BOARD)
        self.assertEqual((released.verdict, pressed.verdict), ("high", "low"))
        self.assertAlmostEqual(released.pin_mv[0], 4950, delta=0.5)
        self.assertAlmostEqual(pressed.contact_ua[0], 100, delta=1.5)
        self.assertAlmostEqual(pressed.contact_ua[1], 250, delta=1.5)

    def test_thresholds(self) -> None:
        # 1 µA through R leaves 5 V − R µA: undefined from 2 MΩ (3 V) on.
        for pull_ohm, verdict in ((1_999_000, "high"), (2_001_000, "undefined"), (3_400_000, "undefined")):
            self.assertEqual(pin_state(circuit(pull="up", pull_ohm=pull_ohm), BOARD, touching=False).verdict, verdict)

    def test_every_arrangement_of_a_module_is_the_circuit_that_its_pins_make(self) -> None:
        pairs = ("1-2", "1-3", "2-3")
        for contact, resistor, wired in itertools.product(
            pairs, pairs, map("-".join, itertools.permutations(("pin", "supply", "ground")))
        ):
            part = ButtonModule.model_validate(
                {"id": "m", "name": "M", "pin": "D2", "contact_pins": contact, "resistor_pins": resistor, "wired": wired,
                 "wiring": Wiring(pull="none")}
            )  # fmt: skip
            made = circuit_of(part.contacts("")[0], BOARD)
            names = wired.split("-")
            joined = {names[int(number) - 1] for number in contact.split("-")}
            pulled = {names[int(number) - 1] for number in resistor.split("-")}
            self.assertEqual(made.contact, (joined - {"pin"}).pop() if "pin" in joined else None)
            self.assertEqual(made.shorts, joined == {"supply", "ground"})
            self.assertEqual([branch.rail for branch in made.held], sorted(pulled - {"pin"}) if "pin" in pulled else [])
            self.assertEqual(made.wasted_ohm, 10_000 if pulled == {"supply", "ground"} else 0)


class PullsAndWires(unittest.TestCase):
    @settings(max_examples=60 * DEPTH)
    @given(st.floats(100, 1e6), st.integers(1, 5_000), rails)
    def test_the_rise_is_that_of_scipys_first_order_system(self, ohm: float, wire_cm: int, rail: str) -> None:
        farad = (10 + 0.7 * wire_cm) * 1e-12
        rc = ohm * farad
        times = np.linspace(0, 3 * rc, 6_001)
        _, rise = signal.step(signal.TransferFunction([1], [rc, 1]), T=times)
        # To 0.6 V, or falling to 0.3 V: v(t) = V(1 − e^(−t/RC)).
        reached = times[np.argmax(rise >= (0.6 if rail == "supply" else 0.7))]
        self.assertAlmostEqual(settle_us(ohm, wire_cm, rail, BOARD) / 1e6 / reached, 1, delta=2e-3)

    def test_the_published_shares_of_rc(self) -> None:
        # FACTS, circuit theory: to 0.6 V in 0.916 RC, falling to 0.3 V in 1.204 RC.
        rc_us = 10_000 * (10 + 0.7 * 30) * 1e-6
        for rail, share in (("supply", 0.916), ("ground", 1.204)):
            self.assertAlmostEqual(settle_us(10_000, 30, rail, BOARD) / rc_us, share, delta=5e-4)

    def test_the_window_holds_common_practice_and_narrows_with_the_wire(self) -> None:
        short, long = (pull_window("supply", 10_000, cm, BOARD) for cm in (30, 1_000))
        self.assertTrue(220 < short.least_ohm < 10_000 <= short.most_ohm == 47_000)
        self.assertLess(long.most_ohm, short.most_ohm)
        self.assertEqual(pull_window("supply", 10_000, 20_000, BOARD).most_by, "the wire's capacitance")


class Filters(unittest.TestCase):
    RC = Filter(0.0, 1.0, 4_700.0, 21_000.0, 0.3, 0.6, schmitt=True)

    @settings(max_examples=60 * DEPTH, deadline=None)
    @given(st.lists(st.integers(50, 40_000), min_size=1, max_size=9))
    def test_a_schmitt_input_turns_over_where_scipys_simulation_crosses(self, waits: list[int]) -> None:
        at_us = np.cumsum([1_000, *waits])
        changes = [(0, False), *((int(at), number % 2 == 0) for number, at in enumerate(at_us))]
        end = int(at_us[-1]) + 200_000
        got = list(pin_levels(changes, self.RC, end, Random(1)))
        # Stretch by stretch through scipy: dv/dt = (target − v) / RC.
        volts, level, wanted = 1.0, 1, [(0, 1)]
        for (begin, touching), (stop, _) in itertools.pairwise([*changes, (end, False)]):
            target, tau = self.RC.course(touching)
            times = np.linspace(0, stop - begin, 4_001)
            _, course, _ = signal.lsim(
                ([[-1 / tau]], [[1 / tau]], [[1]], [[0]]), np.full_like(times, target), times, [volts]
            )
            for when, v in zip(times, course, strict=True):
                if (level == 0 and v >= 0.6) or (level == 1 and v <= 0.3):
                    level = 1 - level
                    wanted.append((begin + when, level))
            volts = float(course[-1])
        self.assertEqual([one for _, one in got], [one for _, one in wanted])
        for (mine, _), (theirs, _) in zip(got, wanted, strict=True):
            self.assertLessEqual(abs(mine - theirs), 60)

    def test_a_plain_input_chatters_between_the_thresholds_and_nowhere_else(self) -> None:
        plain = replace(self.RC, schmitt=False)
        got = list(pin_levels([(0, False), (10_000, True)], plain, 100_000, Random(3)))
        # Falling from 1: to 0.6 after 0.511 RC, to 0.3 after 1.204 RC (FACTS, circuit theory).
        self.assertTrue(all(10_000 + 0.51 * 4_700 < at <= 10_001 + 1.205 * 4_700 for at, _ in got[1:]), got)
        self.assertGreater(len(got), 2)
        self.assertEqual(got[-1][1], 0)

    def test_a_bouncing_button_behind_it_needs_no_interval(self) -> None:
        data = bench_data(demo_bench("print-timer"))
        data["firmware"]["debounce"]["foot-pedal"] = {"method": "none", "interval_us": 0}
        counts = []
        for fitted in ("none", "rc"):
            data["inputs"][0]["wiring"] |= {"filter": fitted, "series_ohm": 10_000, "filter_nf": 1_000, "schmitt": True}
            bench = bench_from_data(data)
            counts.append(doubled_rate(bench, "foot-pedal", 42)[0])
        self.assertGreater(counts[0], 1_000)
        self.assertEqual(counts[1], 0)


class Resistors(unittest.TestCase):
    def test_the_series_are_the_published_ones(self) -> None:
        # IEC 60063, as the package eseries holds it.
        for mine, theirs in ((E12, eseries.E12), (E24, eseries.E24)):
            self.assertEqual([value / 10 for value in mine], [float(value) / 10 for value in eseries.series(theirs)])

    @settings(max_examples=200 * DEPTH)
    @given(st.floats(10, 1e6))
    def test_a_value_is_rounded_to_the_next_preferred(self, ohm: float) -> None:
        for mine, theirs in ((E12, eseries.E12), (E24, eseries.E24)):
            for ours, package in (
                (at_least(ohm, mine), eseries.find_greater_than_or_equal(theirs, ohm)),
                (at_most(ohm, mine), eseries.find_less_than_or_equal(theirs, ohm)),
            ):
                self.assertAlmostEqual(ours, package, delta=1e-6 * ohm)

    def test_a_lamp_gets_no_more_than_is_wanted(self) -> None:
        for drop_mv, wanted_ua in ((2_000, 5_000), (3_200, 5_000), (1_900, 15_000), (4_900, 1_000)):
            part = Lamp(id="led", name="Led", pin="D8", drop_mv=drop_mv, wanted_ua=wanted_ua)
            ohm = lamp_legs(Bench(name="b", outputs=(part,)))[0].better_ohm(BOARD)
            assert ohm is not None
            better = lamp_legs(Bench(name="b", outputs=(part.model_copy(update={"resistor_ohm": ohm}),)))[0]
            current = better.current_ua(BOARD)
            assert current is not None
            self.assertTrue(0.8 * wanted_ua <= current <= wanted_ua, (drop_mv, ohm, current))
        dead = Lamp(id="led", name="Led", pin="D8", drop_mv=5_000)
        self.assertIsNone(lamp_legs(Bench(name="b", outputs=(dead,)))[0].better_ohm(BOARD))

    def test_a_base_gets_a_tenth_of_the_load_but_no_more_than_the_pin_gives(self) -> None:
        for load_ua, board_id in itertools.product((20_000, 100_000, 300_000), ("mid-8bit-5v", "computer-3v3")):
            board = boards()[board_id]
            part = Solenoid(id="s", name="S", pin="D8", load_ua=load_ua)
            drawn = base_ua(part.model_copy(update={"base_ohm": base_ohm_for(part, board)}), board)
            assert drawn is not None
            self.assertLessEqual(drawn, board.pin_ua.design + 1)
            self.assertGreaterEqual(drawn, 0.88 * min(load_ua / 10, board.pin_ua.design))


class Analogue(unittest.TestCase):
    parts = (
        Potentiometer(id="p", name="P", pin="A0"),
        LightSensor(id="l", name="L", pin="A0"),
        TemperatureSensor(id="t", name="T", pin="A0"),
        VoltageSensor(id="v", name="V", pin="A0", most_mv=12_000, most=12.0, upper_ohm=18_000, lower_ohm=10_000),
        LevelSensor(id="h", name="H", pin="A0", least=110.0, most=0.0),
        LightSensor(id="k", name="K", pin="A0", points=(Point(value=50, ohm=9_000), Point(value=300, ohm=2_500))),
        LevelSensor(id="s", name="S", pin="A0", points=(VoltPoint(value=20, mv=700), VoltPoint(value=70, mv=3_900))),
    )

    @settings(max_examples=40 * DEPTH)
    @given(st.lists(st.tuples(st.integers(1, 99), st.integers(501, 4_499)), max_size=8), st.floats(0, 100))
    def test_a_table_is_what_numpy_interpolates(self, rows: list[tuple[int, int]], value: float) -> None:
        (at, mv) = (sorted({row[place] for row in rows}) for place in (0, 1))
        table = list(zip(at, mv, strict=False))
        points = [{"value": a, "mv": m} for a, m in table]
        sensor = {"id": "s", "name": "S", "kind": "level-sensor", "pin": "A0", "points": points}
        data = {"name": "t", "board": "mid-8bit-5v", "inputs": [sensor], "outputs": [], "version": 4}
        part = bench_from_data(data).inputs[0]
        assert isinstance(part, LevelSensor)
        known = np.array([(0, 500), *table, (100, 4_500)], dtype=float)
        self.assertAlmostEqual(pin_mv(part, BOARD, value), np.interp(value, known[:, 0], known[:, 1]), delta=1e-6)

    def test_a_table_goes_one_way_between_its_ends(self) -> None:
        probe = {"id": "t", "name": "T", "kind": "temperature-sensor", "pin": "A0"}
        for points, said in (
            ([(10, 20_000), (25, 10_000)], ""),
            ([(25, 10_000), (10, 20_000)], "in order"),
            ([(25, 10_000), (25, 9_000)], "in order"),
            ([(60, 3_000)], "between its ends, 0 and 50"),
            ([(10, 40_000)], "one way"),
            ([(10, 20_000), (25, 21_000)], "one way"),
            ([(25, 3_603)], "one way"),
        ):
            inputs = [probe | {"points": [{"value": value, "ohm": ohm} for value, ohm in points]}]
            data = {"name": "t", "board": "mid-8bit-5v", "inputs": inputs, "outputs": [], "version": 4}
            if said:
                with self.assertRaisesRegex(DocumentError, said):
                    bench_from_data(data)
            else:
                part = bench_from_data(data).inputs[0]
                assert isinstance(part, TemperatureSensor)
                self.assertAlmostEqual(sensor_ohm(part, 25), 10_000, delta=1e-6)
                beta = np.log(20_000 / 10_000) / (1 / 283.15 - 1 / 298.15)
                self.assertAlmostEqual(
                    sensor_ohm(part, 17), 10_000 * np.exp(beta * (1 / 290.15 - 1 / 298.15)), delta=0.01
                )

    def test_a_scale_ends_at_1023(self) -> None:
        # DS40002061B, converter chapter (from memory): count = Vin · 2^n / Vref.
        for mv, count in ((0, 0), (4.8, 0), (4.9, 1), (2_500, 512), (4_996, 1_023), (9_000, 1_023), (-5, 0)):
            self.assertEqual(counts_of(mv, BOARD), count)
        for count in range(0, 1024, 31):
            self.assertEqual(counts_of(mv_of(count, BOARD) or 0, BOARD), count)

    def test_a_10_k_thermistor_follows_the_beta_equation(self) -> None:
        # R = R25 · e^(B(1/T − 1/T25)); the default's two points are those of B = 3895 K about.
        part = self.parts[2]
        assert isinstance(part, TemperatureSensor)
        beta = np.log(32_650 / 3_603) / (1 / 273.15 - 1 / 323.15)
        for celsius in (0, 10, 25, 40, 50):
            sensor = 3_603 * np.exp(beta * (1 / (celsius + 273.15) - 1 / 323.15))
            self.assertAlmostEqual(pin_mv(part, BOARD, celsius), 5_000 * sensor / (sensor + 10_000), delta=0.01)

    @settings(max_examples=80 * DEPTH)
    @given(st.sampled_from(parts), st.floats(0.02, 0.98))
    def test_back_from_volts_is_where_scipy_finds_the_root(
        self, part: Potentiometer | VoltageSensor | LightSensor | TemperatureSensor, share: float
    ) -> None:
        low, high = range_of(part)
        value = low + share * (high - low)
        wanted = pin_mv(part, BOARD, value)
        root = optimize.brentq(lambda x: pin_mv(part, BOARD, x) - wanted, min(low, high), max(low, high), xtol=1e-12)
        self.assertAlmostEqual(value_at(part, BOARD, wanted), root, delta=1e-6 * abs(high - low))
        self.assertAlmostEqual(root, value, delta=1e-6 * abs(high - low))

    @settings(max_examples=60 * DEPTH)
    @given(st.sampled_from(parts), st.floats(-1, 1), st.floats(-1, 1))
    def test_no_resistors_within_tolerance_go_past_the_error(
        self, part: Potentiometer | VoltageSensor | LightSensor | TemperatureSensor, a: float, b: float
    ) -> None:
        for row in scale(part, BOARD):
            if isinstance(part, VoltageSensor):
                slack = part.tolerance_percent / 100
                change = {"upper_ohm": round(18_000 * (1 + a * slack)), "lower_ohm": round(10_000 * (1 + b * slack))}
            elif isinstance(part, LightSensor | TemperatureSensor):
                change = {"fixed_ohm": round(10_000 * (1 + a * part.tolerance_percent / 100))}
            else:
                continue
            off = pin_mv(part.model_copy(update=change), BOARD, row.value)
            self.assertLessEqual(abs(off - row.pin_mv), row.error_mv + 1e-6)


class Matrix(unittest.TestCase):
    @settings(max_examples=200 * DEPTH)
    @given(st.integers(1, 4), st.integers(1, 4), st.data())
    def test_a_scan_sees_what_current_can_reach(self, rows: int, columns: int, data: st.DataObject) -> None:
        keys = list(itertools.product(range(rows), range(columns)))
        pressed = frozenset(data.draw(st.sets(st.sampled_from(keys))))
        # Brute force: powers of the adjacency matrix of wires, rows first, that the pressed keys join.
        wires = np.eye(rows + columns, dtype=int)
        for row, column in pressed:
            wires[row, rows + column] = wires[rows + column, row] = 1
        reach = np.linalg.matrix_power(wires, rows + columns) > 0
        wanted = frozenset(key for key in keys if reach[key[0], rows + key[1]])
        self.assertEqual(keys_seen(rows, pressed, diodes=False), wanted)
        self.assertEqual(keys_seen(rows, pressed, diodes=True), pressed)

    def test_three_corners_show_the_fourth_and_two_never_do(self) -> None:
        part = KeyMatrix(id="k", name="K", rows=("D2", "D3"), columns=("D4", "D5"))
        self.assertEqual(ghost_example(part), ([(0, 0), (0, 1), (1, 0)], (1, 1)))
        for two in itertools.combinations(itertools.product(range(4), range(3)), 2):
            self.assertEqual(keys_seen(4, frozenset(two), diodes=False), frozenset(two))


class Words(unittest.TestCase):
    def test_units(self) -> None:
        for said, wanted in (
            (ohms(330), "330 Ω"), (ohms(4_700), "4.7 kΩ"), (ohms(2_200_000), "2.2 MΩ"), (ohms(10_000), "10 kΩ"),
            (amps(0.5), "0.5 µA"), (amps(250), "0.25 mA"), (amps(22_700), "22.7 mA"), (amps(9_090), "9.1 mA"),
            (ms(40), "0.04 ms"), (ms(2_100), "2.1 ms"), (ms(18_000), "18 ms"), (ms(1_076_000), "1.076 s"),
            (ms(1_200_060), "1.2 s"), (ms(2_000_000), "2 s"), (ms(12_900_000), "12.9 s"),
            (amps(5_000_000), "5 A"), (volts(4_950), "4.95 V"), (span(100, 250, amps), "0.1–0.25 mA"),
            (span(4_999, 5_001, volts), "5.00 V"), (span(90, 250, amps), "90 µA–0.25 mA"), (volts(-0.2), "0.00 V"),
        ):  # fmt: skip
            self.assertEqual(said, wanted)


if __name__ == "__main__":
    unittest.main()
