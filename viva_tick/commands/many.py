"""Commands that run a bench many times, over all processors or a cluster."""

from __future__ import annotations

import time
from pathlib import Path

import click

from ..core.debounce import METHODS
from ..core.units import ms
from .given import FILE, SCENARIO, hands_of, read_bench, scenario_of, until_stopped, worked_by

SPREAD_FROM = 50_000  # presses; for fewer, processes take longer to start than they save


@click.command()
@FILE
@click.option("--input", "ident", help="Which contact, by its id; the first if none is named.")
@click.option("--presses", type=click.IntRange(2, 1_000_000), default=10_000, show_default=True)
@click.option("--pass-us", type=click.IntRange(1, 1_000_000), help="How long a pass takes, if not as the board says.")
@worked_by
def sweep(file: Path, ident: str | None, presses: int, pass_us: int | None, hands: int | None, address: str) -> None:
    """Try every debounce method at every interval on thousands of presses of a contact; Ctrl-C stops it."""
    from ..core.sweep import full_sweep

    bench = read_bench(file)
    names = [line.id for line in bench.contacts]
    if not names:
        raise click.ClickException("This bench has no contact to sweep.")
    ident = ident or names[0]
    if ident not in names:
        raise click.ClickException(f"There is no contact “{ident}” on this bench; it has {', '.join(names)}.")
    order = [method.id for method in METHODS.values() if method.has_interval]
    rows = []
    began = time.monotonic()
    with until_stopped() as going:
        by = hands_of(hands, address, presses >= SPREAD_FROM)
        for one in full_sweep(bench, ident, presses, pass_us, by, lambda: going.on):
            rows.append(one)
            going.told(len(rows), len(order))
    words = f" in {time.monotonic() - began:.1f} s{going.words}" if presses >= SPREAD_FROM else going.words
    click.echo(
        f"{bench.contact(ident).name}: {presses:,} presses{words}; safe window, advised, median wait there, worst"
    )
    for one in sorted(rows, key=lambda row: order.index(row.method)):
        title = METHODS[one.method].title
        if one.advice is None:
            best = int((one.swept.doubled + one.swept.missed).min())
            click.echo(f"    {title}: no safe interval; at best {best:,} of {one.swept.presses:,} go wrong")
            continue
        near = abs(one.swept.interval_us - one.advice.advised_us).argmin()
        median, _, worst = (int(us) for us in one.swept.wait_us[near])
        window = f"{ms(one.advice.low_us)} to {ms(one.advice.high_us)}"
        click.echo(f"    {title}: {window}, {ms(one.advice.advised_us)}, {ms(median)}, {ms(worst)}")


@click.command()
@FILE
@SCENARIO
@click.option("--instants", type=click.IntRange(1, 1_000), default=20, show_default=True, help="Of each fault.")
@worked_by
def hang(file: Path, name: str | None, instants: int, hands: int | None, address: str) -> None:
    """Put every fault into a scenario at many instants and say what becomes of the bench; Ctrl-C stops it."""
    from ..core.guard import hang_rows, hang_tests
    from ..core.report import hang_lines

    bench = read_bench(file)
    scenario = scenario_of(bench, name)
    began = time.monotonic()
    with until_stopped() as going:
        runs = hang_tests(bench, scenario, instants, hands_of(hands, address), going.told)
    click.echo(f"{len(runs)} runs in {time.monotonic() - began:.1f} s{going.words}")
    for line in hang_lines(hang_rows(bench, runs)):
        click.echo(line)


@click.command()
@FILE
@SCENARIO
@click.option("--runs", type=click.IntRange(1, 1_000_000_000), default=1_000, show_default=True)
@click.option("--json", "as_json", is_flag=True, help="For machines.")
@worked_by
def repeat(file: Path, name: str | None, runs: int, hands: int | None, address: str, as_json: bool) -> None:
    """A scenario again and again, with other bounces, phases, clocks, hands, passes and parts: how often each check
    holds, and what that hangs on; Ctrl-C stops it."""
    from ..core.repeats import flips, repeated_by_all, said

    bench = read_bench(file)
    scenario = scenario_of(bench, name)
    began = time.monotonic()
    with until_stopped() as going:
        by = hands_of(hands, address)
        done = repeated_by_all(bench, scenario, runs, by, lambda so_far: going.told(so_far, runs))
    if as_json:
        click.echo(done.text())
        return
    click.echo(f"{done.runs:,} runs in {time.monotonic() - began:.1f} s{going.words}")
    failing = [ident for ident, (of, so, _) in done.rows.items() if so < of]
    hung = {ident: flips(bench, scenario, ident) for ident in failing} if going.on else {}
    for line in said(bench, scenario, done, hung):
        click.echo(line)
