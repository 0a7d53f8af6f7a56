"""The simulated board at the prompt: how it differs from what was planned, and to whom it tells what it does."""

from __future__ import annotations

import os
import signal
import socket
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import click

from .core.document import Bench
from .core.guard import fault_at, faults_of
from .core.switches import SWITCH_CLASSES
from .core.told import Otherness

Rows = list[tuple[int, str]]  # (µs since power-on, line)


def other_of(
    bench: Bench, seed: int, contacts: tuple[str, ...], ppm: float, slower: float, fault: str | None
) -> Otherness:
    """How the board differs, from what was asked. Raises `click.ClickException`."""
    switches = dict(one.partition("=")[::2] for one in contacts)
    for ident, switch in switches.items():
        if ident not in {line.id for line in bench.contacts} or switch not in SWITCH_CLASSES:
            known = f"contacts: {', '.join(line.id for line in bench.contacts)}; classes: {', '.join(SWITCH_CLASSES)}"
            raise click.ClickException(f"“{ident}={switch}” names no contact of this bench, or no class ({known}).")
    put_in = None
    if fault:
        word, _, at = fault.partition("@")
        kind, _, of = word.partition(":")
        if not at.isdigit() or (kind, of) not in {(one.id, ident) for one, ident, _ in faults_of(bench)}:
            known = ", ".join(f"{one.id}:{ident}" for one, ident, _ in faults_of(bench))
            raise click.ClickException(f"“{fault}” is no fault of this bench; say kind:of@ms, one of {known}.")
        put_in = fault_at(bench, kind, of, int(at) * 1000)  # type: ignore[arg-type]
    return Otherness(seed, switches, ppm, slower, put_in)


def tell_by_socket(rows: Rows, ppm: float, port: int) -> None:
    """To each who connects, one after another, until interrupted."""
    with socket.create_server(("127.0.0.1", port)) as server:
        click.echo(f"It tells who connects to 127.0.0.1:{server.getsockname()[1]} (stop it with Ctrl+C).")
        while True:
            connection, _ = server.accept()
            with connection, suppress(OSError):
                _tell(rows, ppm, connection.sendall)


def tell_by_serial(rows: Rows, ppm: float) -> None:
    """Over a pseudo-terminal, once; it stays open until interrupted."""
    ours, theirs = os.openpty()
    click.echo(f"It tells {os.ttyname(theirs)} (stop it with Ctrl+C).")
    _tell(rows, ppm, lambda line: os.write(ours, line))
    signal.pause()


def _tell(rows: Rows, ppm: float, send: Callable[[bytes], Any]) -> None:
    """Each line when the board has it, by its own clock."""
    began = time.monotonic()
    for at_us, line in rows:
        time.sleep(max(0.0, began + at_us * (1 + ppm / 1e6) / 1e6 - time.monotonic()))
        send(f"{line}\r\n".encode())
