"""What commands are given: a bench's file, one of its scenarios, and who does the work."""

from __future__ import annotations

import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import click

from ..core.document import Bench, DocumentError, Scenario, bench_from_text
from ..core.spread import Hands, NoHands, processors

REFUSED = 2

FILE = click.argument("file", type=click.Path(dir_okay=False, path_type=Path))
SCENARIO = click.option("--scenario", "name", help="Which scenario; the first if none is named.")


def read_bench(path: Path) -> Bench:
    """The bench of a file; ends the command with its problems where it is none."""
    try:
        return bench_from_text(path.read_text(encoding="utf-8"))
    except (OSError, UnicodeDecodeError) as error:
        raise click.ClickException(f"{path} cannot be read: {error}") from None
    except DocumentError as error:
        for problem in error.problems:
            click.echo(f"{path}: {problem}", err=True)
        sys.exit(REFUSED)


def scenario_of(bench: Bench, name: str | None) -> Scenario:
    """The scenario of that name, or the first."""
    names = [scenario.name for scenario in bench.scenarios]
    if not names:
        raise click.ClickException("This bench has no scenario to run.")
    if name is None:
        return bench.scenarios[0]
    if name not in names:
        raise click.ClickException(f"There is no scenario “{name}” on this bench; it has {', '.join(names)}.")
    return bench.scenario(name)


def worked_by(command: Callable[..., Any]) -> Callable[..., Any]:
    """Options of a command whose work can be spread: `--hands` processes, or `--on` a cluster."""
    for option in (
        click.option(
            "--hands", type=click.IntRange(1, 256), help="Processes; as many as there are processors if not said."
        ),
        click.option("--on", "address", default="", help="A cluster's scheduler, as tcp://192.168.0.2:8786."),
    ):
        command = option(command)
    return command


def hands_of(hands: int | None, address: str, worth_it: bool = True) -> Hands:
    """Who does it: what was asked for, or all processors if it is worth starting them."""
    return Hands(hands or (processors() if worth_it else 1), address)


class Going:
    """Whether to go on: until Ctrl-C."""

    def __init__(self) -> None:
        self.on = True

    @property
    def words(self) -> str:
        """What to say of it when it is over."""
        return "" if self.on else ", stopped there"

    def told(self, done: int, of: int) -> bool:
        """Says how far it is, where somebody looks on, and whether to go on."""
        if sys.stderr.isatty():
            click.echo(f"\r{done:,} of {of:,} runs…", nl=False, err=True)
        return self.on


@contextmanager
def until_stopped() -> Iterator[Going]:
    """Work that Ctrl-C stops in good order; a cluster that cannot be used ends it with a sentence."""
    going = Going()

    def stop(*_: object) -> None:
        going.on = False

    before = signal.signal(signal.SIGINT, stop)
    try:
        yield going
    except NoHands as error:
        raise click.ClickException(str(error)) from None
    finally:
        signal.signal(signal.SIGINT, before)
