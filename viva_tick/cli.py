"""The command line: the same core without a browser, and the server."""

from __future__ import annotations

import json
import signal
import sys
import time
from collections.abc import Callable
from datetime import datetime
from pathlib import Path
from typing import Any

import click

from . import __version__, loading
from .commands.given import FILE, REFUSED, SCENARIO, read_bench, scenario_of
from .commands.many import hang, repeat, sweep
from .core.bundle import bundled
from .core.document import DocumentError, bench_text
from .core.edits import apply_patch
from .core.emit import TARGETS, kept, targets_of, why_not
from .core.emit.files import slug
from .core.exploring import explore, produced_events
from .core.findings import Finding, Severity, must_fix, row_words
from .core.formats import ScxmlError, arrival_patch, write_dot, write_scxml, write_trace, write_vcd
from .core.program import program_of
from .core.report import finding_lines, pace_lines, study_data, study_lines
from .core.study import study, to_be_fixed
from .core.told import board_run, pins_vcd, trace_lines
from .simulated import other_of, tell_by_serial, tell_by_socket

MUST_FIX = 1
loading.loaded()


def _write(path: Path, text: str) -> None:
    try:
        path.write_text(text, encoding="utf-8", newline="")
    except OSError as error:
        raise click.ClickException(f"{path} cannot be written: {error}") from None


@click.group()
@click.version_option(__version__)
def main() -> None:
    """Viva Tick: see how your contacts drive your outputs, before uploading."""


@main.command()
@FILE
@click.option("--json", "as_json", is_flag=True, help="For machines.")
def check(file: Path, as_json: bool) -> None:
    """Run every scenario of a bench and say what stands out. Exit 1 where something must be fixed, 2 where the file
    is refused."""
    bench = read_bench(file)
    found: list[tuple[str | None, Finding]] = []
    seen: set[tuple[str, str, str]] = set()
    for scenario in bench.scenarios or (None,):
        for finding in study(bench, scenario).findings:
            if (key := (finding.code, finding.pointer, finding.sentence)) not in seen:
                seen.add(key)
                found.append((scenario.name if scenario else None, finding))
    if as_json:
        rows = [{"scenario": scenario, **finding.data()} for scenario, finding in found]
        click.echo(json.dumps({"bench": bench.name, "findings": rows}, ensure_ascii=False, indent=2))
    else:
        for line in finding_lines([finding for _, finding in found]):
            click.echo(line)
        if not found:
            click.echo(f"{bench.name}: nothing stands out.")
    if any(finding.severity is Severity.MUST for _, finding in found):
        sys.exit(MUST_FIX)


@main.command()
@FILE
@click.option(
    "--bench", "bench_path", type=click.Path(dir_okay=False, path_type=Path), help="Write a bench drafted from it."
)
@click.option(
    "--mended", "mended_path", type=click.Path(dir_okay=False, path_type=Path), help="Write it with its mends."
)
@click.option("--json", "as_json", is_flag=True, help="For machines.")
def read(file: Path, bench_path: Path | None, mended_path: Path | None, as_json: bool) -> None:
    """Read a program in C, C++ or MicroPython (or a zip of one): what is in it, what is wrong with it. Nothing of it is
    run. Exit 1 where something is wrong, 2 where it cannot be read."""
    from .core.given import draft, mended_all, read_brought, reading_lines, sections, wrongs

    try:
        facts = read_brought(file.read_bytes(), file.name)
    except OSError as error:
        raise click.ClickException(f"{file} cannot be read: {error}") from None
    except ValueError as error:
        click.echo(f"{file}: {error}", err=True)
        sys.exit(REFUSED)
    found, made = wrongs(facts), draft(facts, file.stem)
    if bench_path:
        _write(bench_path, bench_text(made.bench))
    if mended_path:
        _write(mended_path, mended_all(facts.source.text, found))
    if as_json:
        rows = [
            {"code": one.code, "line": one.line, "pin": one.pin, "why": one.why, "instead": one.instead}
            for one in found
        ]
        parts = [
            {
                "title": section.title,
                "rows": [{"what": row.what, "words": row.words, "lines": row.lines} for row in section.rows],
            }
            for section in sections(facts, made)
        ]
        click.echo(
            json.dumps({"wrong": rows, "found": parts, "not_understood": made.unknown}, ensure_ascii=False, indent=2)
        )
    else:
        for line in reading_lines(facts, found, made):
            click.echo(line)
    if found:
        sys.exit(MUST_FIX)


@main.command()
@FILE
@SCENARIO
@click.option("--seed", type=click.IntRange(0, 0xFFFF_FFFF), help="Instead of the scenario's own.")
@click.option("--vcd", type=click.Path(dir_okay=False, path_type=Path), help="Write the trace as a value change dump.")
@click.option("--csv", "csv_", type=click.Path(dir_okay=False, path_type=Path), help="Write the trace as CSV.")
@click.option("--json", "as_json", is_flag=True, help="The whole run, for machines.")
def run(file: Path, name: str | None, seed: int | None, vcd: Path | None, csv_: Path | None, as_json: bool) -> None:
    """Run one scenario of a bench and say what it answers."""
    bench = read_bench(file)
    done = study(bench, scenario_of(bench, name), seed)
    assert done.run is not None
    if vcd:
        _write(vcd, write_vcd(bench, done.run.trace))
    if csv_:
        _write(csv_, write_trace(done.run.trace))
    if as_json:
        click.echo(json.dumps(study_data(done), ensure_ascii=False))
        return
    for line in (*study_lines(bench, done), *finding_lines(done.findings)):
        click.echo(line)


@main.command()
@FILE
@click.option(
    "--target", type=click.Choice(list(TARGETS)), help="Which program; the one that the strip shows if none is named."
)
@click.option(
    "--into",
    type=click.Path(file_okay=False, path_type=Path),
    help="A folder for all files; else the program is printed.",
)
@click.option(
    "--keep", type=click.Path(exists=True, dir_okay=False, path_type=Path), help="An older file, whose own lines stay."
)
def emit(file: Path, target: str | None, into: Path | None, keep: Path | None) -> None:
    """Print the bench as code for the board, or write it into a folder."""
    bench = read_bench(file)
    chosen = TARGETS[target] if target else targets_of(bench)[0]
    if why := why_not(chosen, bench):
        raise click.ClickException(why)
    made = chosen.emit(bench, must_fix(to_be_fixed(bench)))
    if keep is not None:
        made, left = kept(made, keep.read_text(encoding="utf-8", errors="replace"))
        for name in left:
            click.echo(f"The place “{name}” is no longer there: its lines stand at the end of the program.", err=True)
    if into is None:
        click.echo(made.text, nl=False)
        if len(made.files) > 1:
            others = ", ".join(part.name for part in made.files[1:])
            click.echo(f"It needs {others} beside it: name a folder with --into.", err=True)
    else:
        into.mkdir(parents=True, exist_ok=True)
        for part in bundled(made, bench).files:
            name = part.name or f"{slug(bench.name)}{part.suffix}"
            (into / name).write_text(part.text, encoding="utf-8")
            click.echo(into / name, err=True)
    for note in made.notes:
        click.echo(note, err=True)


@main.command()
@FILE
@click.option("--machine", "ident", help="Which machine, by its id; the first if none is named.")
@click.option("--to", "kind", type=click.Choice(["scxml", "dot"]), default="scxml", show_default=True)
def machine(file: Path, ident: str | None, kind: str) -> None:
    """Print a machine for other programs, as SCXML or as Graphviz DOT."""
    bench = read_bench(file)
    found = [one for one in bench.firmware.machines if ident in (None, one.id)]
    if not found:
        known = ", ".join(one.id for one in bench.firmware.machines) or "none"
        raise click.ClickException(f"There is no machine “{ident or ''}” on this bench; {known} are.")
    text = write_scxml(found[0], bench.firmware.variables) if kind == "scxml" else write_dot(found[0])
    click.echo(text, nl=False)


@main.command("bring-in")
@FILE
@click.argument("scxml", type=click.Path(exists=True, dir_okay=False, path_type=Path))
def bring_in(file: Path, scxml: Path) -> None:
    """Print the bench with the machine of an SCXML file added."""
    bench = read_bench(file)
    try:
        _, patch = arrival_patch(bench, scxml.read_text(encoding="utf-8"))
        click.echo(bench_text(apply_patch(bench, patch)), nl=False)
    except (UnicodeDecodeError, ScxmlError, DocumentError) as error:
        raise click.ClickException(f"{error} Nothing was changed.") from None


@main.command()
@FILE
@click.option("--most", type=click.IntRange(1, 5_000_000), default=200_000, show_default=True, help="Where to stop.")
def reach(file: Path, most: int) -> None:
    """Explore every combination of states that the machines can be in together; Ctrl-C stops it and says how far."""
    bench = read_bench(file)
    machines = bench.firmware.machines
    pairs = [(lock.one, lock.other) for lock in bench.firmware.interlocks]
    began = time.monotonic()
    going = True

    def stop(*_: object) -> None:
        nonlocal going
        going = False

    def report(found: int) -> bool:
        if sys.stderr.isatty():
            click.echo(f"\r{found:,} combinations…", nl=False, err=True)
        return going

    before = signal.signal(signal.SIGINT, stop)
    try:
        found = explore(program_of(bench), machines, pairs, most, produced_events(bench), report)
    finally:
        signal.signal(signal.SIGINT, before)
    ends = "all there are" if found.whole else "stopped there"
    click.echo(f"{found.standings:,} combinations in {time.monotonic() - began:.2f} s, {ends}")
    for one in machines:
        lost = [state.name for state in one.states if (one.id, state.id) not in found.paths]
        click.echo(f"{one.name}: {len(one.states) - len(lost)} of {len(one.states)} states reached")
        if lost:
            click.echo(f"    not reached: {', '.join(lost)}")
    for pair in pairs:
        if pair in found.together:
            path, _ = found.together[pair]
            click.echo(f"{pair[0]} and {pair[1]} are both asked for after {row_words(bench, path)}")


@main.command()
@FILE
@SCENARIO
def pace(file: Path, name: str | None) -> None:
    """A pass taken apart, how soon each input is read, and whether the tasks would work under a kernel."""
    bench = read_bench(file)
    done = study(bench, scenario_of(bench, name), mends=False)
    for line in pace_lines(done):
        click.echo(line)


for one in (sweep, hang, repeat):
    main.add_command(one)


@main.command()
@FILE
@click.option("--scenario", "name", help="What is done to it; the first if none is named.")
@click.option("--seed", type=click.IntRange(0, 1_000_000), default=1, show_default=True, help="Another chance in it.")
@click.option("--contact", "contacts", multiple=True, help="Another contact: foot-pedal=worn-button.")
@click.option("--ppm", type=click.FloatRange(-200_000, 200_000), default=0.0, help="By how much its clock is slow.")
@click.option("--slower", type=click.FloatRange(0.1, 100), default=1.0, help="How many times as long a pass takes.")
@click.option("--fault", help="A fault that is in it, and when, in ms: off:foot-pedal@1200.")
@click.option("--vcd", type=click.Path(dir_okay=False, path_type=Path), help="What its pins do, into a file.")
@click.option("--tcp", type=click.IntRange(0, 65535), help="Tell it to who connects to this port, in its time.")
@click.option("--serial", is_flag=True, help="Tell it over a pseudo-terminal, in its time.")
def board(file: Path, name: str | None, vcd: Path | None, tcp: int | None, serial: bool, **other: Any) -> None:
    """A simulated board that is not quite as planned: what it prints, or what its pins do."""
    bench = read_bench(file)
    said = other_of(bench, **other)
    run = board_run(bench, scenario_of(bench, name), said)
    rows = trace_lines(bench, run)
    if vcd:
        vcd.write_text(pins_vcd(bench, run, said.ppm, run.boots[0][1] if run.boots else 0), encoding="utf-8")
        click.echo(f"Its pins are in {vcd}: read it in Log.")
    elif tcp is not None:
        tell_by_socket(rows, said.ppm, tcp)
    elif serial:
        tell_by_serial(rows, said.ppm)
    else:
        for _, line in rows:
            click.echo(line)


def _serving(command: Callable[..., Any]) -> Callable[..., Any]:
    for option in (
        click.option("--host", default="127.0.0.1", show_default=True),
        click.option("--port", type=click.IntRange(0, 65535), default=8765, show_default=True),
        click.option("--data", type=click.Path(file_okay=False, path_type=Path), help="Where benches are kept."),
        click.option(
            "--passphrase-file",
            type=click.Path(exists=True, dir_okay=False, path_type=Path),
            help="Asked of every visitor; needed where the host is not this machine alone.",
        ),
        click.option("--allow-host", multiple=True, help="A further name by which the server may be called."),
        click.option("--behind-https", is_flag=True, help="A proxy that speaks HTTPS stands before it."),
        click.option(
            "--workers",
            type=click.IntRange(0, 64),
            help="Processes for the work; as many as processors, 4 at most, where nothing is said. 0: threads alone.",
        ),
    ):
        command = option(command)
    return command


def _serve(**given: Any) -> None:
    loading.begin()
    from .web.serve import ServeError, serve  # the web is loaded only where it is asked for

    try:
        serve(**given)
    except ServeError as error:
        raise click.ClickException(str(error)) from None


@main.command("restore")
@click.argument("name", required=False)
@click.option("--data", type=click.Path(file_okay=False, path_type=Path), help="The folder of the benches.")
def restore_command(name: str | None, data: Path | None) -> None:
    """Put a backup back, by its name; without one, list them. Stop the server first if it does not start any more."""
    from .store import NoBackup, backups, restore
    from .web.app import DATABASE
    from .web.serve import default_data

    database = (data or default_data()) / DATABASE
    if name is None:
        found = backups(database)
        for one in found:
            click.echo(f"{one.name}  {one.at:%d %B %Y, %H:%M}, {one.benches} benches, {one.why}")
        if not found:
            click.echo(f"There are no backups in {database.parent / 'backups'}.")
        return
    try:
        restore(database, name, f"{datetime.now():%Y-%m-%d-%H%M%S}")  # noqa: DTZ005
    except NoBackup:
        raise click.ClickException(f"There is no backup {name}, or it cannot be read; nothing was changed.") from None
    click.echo("Put back. What was there before is among the backups, too.")


@main.command("serve")
@_serving
def serve_command(allow_host: tuple[str, ...], **given: Any) -> None:
    """Serve the application to a browser."""
    _serve(allowed=allow_host, demo=False, **given)


@main.command("demo")
@_serving
def demo_command(allow_host: tuple[str, ...], **given: Any) -> None:
    """Serve it with the demo benches put in, where they are not there yet."""
    _serve(allowed=allow_host, demo=True, **given)


if __name__ == "__main__":
    main()
