"""What the help says of each station, and the words that this program uses."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Station:
    """A station's page: the question that it answers, how to go about it, what its numbers mean; the beginnings of the
    codes of its findings, the topics on which schools differ there, the sums that belong to it."""

    question: str
    steps: tuple[str, ...]
    numbers: tuple[str, ...]
    codes: tuple[str, ...]
    topics: tuple[str, ...] = ()
    sums: tuple[str, ...] = ()


STATIONS: dict[str, Station] = {
    "wire": Station(
        "What does each pin see?",
        (
            "Add a part: type what it does. It comes wired for the board, on a free pin.",
            "Press the contact in the drawing: both states are worked out, each voltage from the least to the most.",
            "Drag the contact to the other rail, click what holds the pin, type over any value.",
            "Look at the sums below the board: pins together, each port, the supply.",
        ),
        (
            "A pin is low up to a share of the logic voltage and high from another; between them it reads at random.",
            "A pull of the board has a wide range; one of your own has the value of its bands.",
        ),
        ("wire.",), ("pulls",), ("led", "divider", "pull", "base", "gate", "budget", "wire", "fuse"),
    ),
    "clean": Station(
        "When does a press count, and how often?",
        (
            "Choose the contact that is most like yours, or import presses of your own.",
            "Drag the interval along the chart: how many presses are counted again, or missed.",
            "Take the advised interval, or another method: each says when it is right, and what it costs.",
            "A sensor has two thresholds: drag them apart until its noise does not switch it.",
        ),
        (
            "Extra presses: of the sampled presses those that are counted more than once. Missed: not at all.",
            "From a capture of few presses little is sure: the page says how little.",
        ),
        ("clean.",), ("methods",), ("rc", "hands", "doubled", "hysteresis", "converter", "thermistor"),
    ),
    "behave": Station(
        "What does it do, in each state, on each event?",
        (
            "Take a recipe, or add a state: its name is typed where it stands.",
            "In the grid an event's column and a state's row meet in a cell: type where it leads.",
            "A state's outputs are what its entry makes them do; those it does not name go on as they were.",
            "M turns grid into map. A cell that is empty on purpose is ignored with −.",
        ),
        ("A press acts at once; a click waits until it can be no double click, where one is listened for.",),
        ("behave.",),
    ),
    "pace": Station(
        "How long is a pass, and what comes late?",
        (
            "Look at the longest pass, block by block: what is long is in front.",
            "Drag a task along its lane to begin it later; longer or shorter by its ends.",
            "Compare the loop styles on your bench: the same presses, the same outputs, other times.",
        ),
        (
            "A pass reads the counter once: a wait of 20 ms is 19 to 20 ms long, and up to a pass more.",
            "What holds the loop is deaf to everything but interrupts meanwhile.",
        ),
        ("pace.",), ("loops",), ("counter", "baud", "pwm"),
    ),
    "guard": Station(
        "What becomes of the outputs when something hangs?",
        (
            "Say what each output can do: mains, heat, motion. The watchdog follows from that.",
            "Turn the timeout on its dial: the longest healthy pass at one side, what may go on at the other.",
            "Run all fault tests: what each fault does to what you drive, and how long it stays on.",
        ),
        ("A watchdog's clock is no quartz: its step comes a tenth sooner or later.",),
        ("guard.",), ("watchdogs",), ("watchdog", "battery"),
    ),
    "try": Station(
        "Does it do what you meant, in your hands?",
        (
            "Press ▸ and play the panel: by hand, by letters, on a phone beside the bench.",
            "Keep what you did as a scenario, and what you saw as its checks.",
            "Let another hand play a thousand actions, and watch those that went wrong.",
            "Look at how many of twenty repeats each check holds in; put the one that failed on the strip.",
            "Turn the panel round: pull wires off, hold contacts, hang the loop.",
        ),
        ("A check that is met now is checked again at every edit.",),
        ("behave.unexpected", "behave.not-always", "wire.starting"),
    ),
    "build": Station(
        "What goes to the workbench?",
        (
            "Choose the program's language, read it, download it as a folder.",
            "Follow the wiring card step by step, and tick each wire.",
            "Measure before power, after power, load by load; type what the meter shows.",
        ),
        ("What you write into the program between the marks stays when it is made again.",),
        ("build.", "wire.pin", "behave.undriven"),
    ),
    "log": Station(
        "What did the real board do?",
        (
            "Paste what it printed, drop a capture of its pins, or listen to the serial port.",
            "Drag channels to the pins that they are. The differences are listed, and laid over the strip.",
            "What may lie behind them stands below, with the edit that mends it.",
            "Tick a test card beside the bench; count trials by one tap each.",
        ),
        ("ppm: millionths. A resonator is off by up to 5,000 of them, a quartz by 50.",),
        ("clean.counted", "pace.promised"), (), ("doubled",),
    ),
}  # fmt: skip

WORDS: dict[str, str] = {
    "contact": "The metal: it touches, or it does not.",
    "pin level": "What the pin sees: low, high, or between, which the wiring decides.",
    "reading": "What the firmware samples of a pin, once a pass.",
    "accepted press": "A press that the debounce method lets through to the machines.",
    "extra presses counted": "One press that is accepted as two or more.",
    "missed press": "A press that is never accepted.",
    "interval": "How long a level must stand, or is let pass, by a debounce method.",
    "bounce": "A contact that opens and closes again before it rests.",
    "pull": "What holds a pin while its contact is open.",
    "floating": "Held by nothing: it reads 0 or 1 at random.",
    "hysteresis": "Two thresholds, so that noise between them changes nothing.",
    "pass": "Once round the loop.",
    "holds the loop": "Nothing else is done meanwhile, and nothing is read.",
    "task": "Work that comes at a fixed period.",
    "wrap": "What a counter does at its end: it begins anew.",
    "state": "What a machine is in; its entry drives outputs.",
    "event": "What can lead from one state to another: a press, a time, a threshold, a command.",
    "guard condition": "What must hold besides the event.",
    "watchdog": "Resets the board when it is not fed in time.",
    "feed": "To tell the watchdog that the loop goes round.",
    "hazardous output": "Switches mains, heat, motion, or anything that can hurt.",
    "scenario": "What is done to a bench, and what must come of it.",
    "check": "What a scenario expects: an output, a state, a number, at an instant or never.",
    "ghost": "The run before the last edit, behind the one of now.",
    "finding": "What the checks say of a bench: must fix, worth a look, or a note.",
    "strip": "The run over time, along the bottom.",
    "capture": "What an instrument saw at pins.",
    "ppm": "Millionths, of a clock's speed.",
}

_SHEET = "data sheet DS40002061B, {}, from memory, for the 8-bit boards; other boards have their own numbers"
# What a finding rests on, by the beginning of its code; the first that fits.
SOURCES = (
    (
        r"wire\.(floating|undecided|between-throws|pull-weak|long-wire|inverted|trigger|over-volts|gate-low)",
        "Levels and pull-ups: " + _SHEET.format("electrical characteristics") + ".",
    ),
    (
        r"wire\.(pin-over|port-over|all-pins|supply-over|relay-supply|start-current)",
        "Currents of pins: " + _SHEET.format("electrical characteristics") + ". What a computer's port gives: "
        "500 mA (USB 2.0), 900 mA (USB 3).",
    ),
    (r"wire\.rc-", "v = V (1 − e^(−t/RC)), circuit theory."),
    (r"wire\.(no-fuse|thin-wire|small-fuse)", "What a cord carries: IEC 60335-1, table 11, from memory."),
    (
        r"(wire\.(source|narrow|over-scale|tolerance)|clean\.(full-scale|reference))",
        "Converters: " + _SHEET.format("converter chapter") + ".",
    ),
    (r"wire\.(lamp-|base-|pull-strong)", "Ohm’s law; the limits are common practice, and what was typed in."),
    (
        r"wire\.",
        "The bench’s wiring, and what its board’s data say; limits that are not the board’s are common practice.",
    ),
    (r"clean\.lag", "Miller 1968; Card, Robertson & Mackinlay 1991: felt as instant up to 0.1 s."),
    (r"clean\.slow-sampling", "Shannon 1949."),
    (
        r"clean\.(chatter|no-hysteresis|thin-hysteresis)",
        "How often noise crosses: Rice 1945; how far apart: common practice.",
    ),
    (r"clean\.encoder", "Gray code; how fast a hand turns is common practice."),
    (
        r"clean\.(command|keys|mixed-units|unread)",
        "Worked out from the bench; what modules usually do is common practice.",
    ),
    (
        r"clean\.",
        "How contacts bounce: J. Ganssle, A Guide to Debouncing, from memory, or your own capture; how short taps are: "
        "common practice.",
    ),
    (r"pace\.(unschedulable|kernel-overload)", "Liu & Layland 1973; Joseph & Pandya 1986."),
    (r"pace\.(baud|two-bauds)", "Dividers: " + _SHEET.format("baud tables") + "."),
    (r"pace\.(wrap|overflow|drift)", "Arithmetic: 2³² ms are 49 d 17 h 2 min 47.296 s."),
    (r"pace\.(prints|overrun)", "Arithmetic: ten bits a character."),
    (r"pace\.stack", "What tasks are usually given is common practice."),
    (r"pace\.", "Worked out from the bench, with the costs of its board."),
    (r"guard\.(worn|no-store)", "100,000 writes a cell: common practice, or the board’s data."),
    (r"guard\.(none|alone|cause|brown-out|survives)", "Common practice."),
    (r"guard\.", "The watchdog: " + _SHEET.format("watchdog chapter") + "."),
    (r"behave\.(text-fast|fast-relay|sensor-wire)", "Common practice."),
    (r"behave\.", "Worked out from the bench: its machines, in every combination that can be reached."),
    (r"build\.", "Worked out from the bench."),
)
