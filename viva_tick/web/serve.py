"""Serving the application with waitress, on this machine alone unless a passphrase guards it."""

from __future__ import annotations

import ctypes
import os
import socket
from contextlib import suppress
from pathlib import Path

from flask import Flask
from sqlalchemy.exc import DatabaseError
from werkzeug.middleware.proxy_fix import ProxyFix

from .. import loading
from ..store import NewerDatabase, backups
from .app import DATABASE, ONE_PROXY, create_app
from .front import Front
from .opening import Opening
from .phone import network_address
from .security import LOOPBACK
from .warming import warm
from .workers import Pool, Wsgi

# <malloc.h>: from what size on a piece is mapped by itself, how much may lie free at the end, how many arenas.
MALLOC = {-3: 1 << 18, -1: 1 << 18, -8: 2}


class ServeError(Exception):
    """The server was not started; the message says why and what to do."""


def default_data() -> Path:
    """Where benches are kept if nothing else is said: the user's data folder."""
    base = os.environ.get("XDG_DATA_HOME") or str(Path.home() / ".local" / "share")
    return Path(base) / "viva-tick"


def _passphrase(host: str, file: Path | None) -> str | None:
    given = os.environ.get("VIVA_TICK_PASSPHRASE", "")
    if file:
        try:
            given = file.read_text(encoding="utf-8").strip()
        except (OSError, UnicodeDecodeError) as error:
            raise ServeError(f"The passphrase in {file} cannot be read: {error}.") from None
    if given and not given.strip():
        raise ServeError("The passphrase is blank: eight characters at least.")
    given = given.strip()
    if given and len(given) < 8:
        raise ServeError("The passphrase is too short: eight characters at least.")
    if not given and host not in LOOPBACK:
        raise ServeError(
            f"{host} can be reached from other machines, so a passphrase is needed: put one in a file and name it "
            "with --passphrase-file, or set VIVA_TICK_PASSPHRASE. Without --host only this machine can reach it."
        )
    return given or None


def _hosts(host: str, allowed: tuple[str, ...]) -> list[str]:
    names = {*LOOPBACK, "[::1]", *(name.lower() for name in allowed)}
    if host in ("0.0.0.0", "::"):  # noqa: S104
        names.add(socket.gethostname())
        names |= {network_address() or ""} - {""}
        names |= {str(row[4][0]) for row in socket.getaddrinfo(socket.gethostname(), None)}
    else:
        names |= {host.lower(), f"[{host.lower()}]" if ":" in host else host.lower()}
    return sorted(names)


def _or_restore(folder: Path) -> str:
    """How to put the newest backup back, if there is one."""
    found = backups(folder / DATABASE)
    if not found:
        return ""
    data = "" if folder == default_data() else f" --data {folder}"
    return f"; or put the backup of {found[0].at:%d %B, %H:%M} back: viva-tick restore {found[0].name}{data}"


def few_arenas() -> None:
    """Let what was large and is done with go back to the system: glibc keeps it otherwise, by thread."""
    with suppress(OSError, AttributeError):  # another library of the system's has its own ways
        for option, value in MALLOC.items():
            ctypes.CDLL(None).mallopt(option, value)


def serve(
    host: str,
    port: int,
    data: Path | None,
    passphrase_file: Path | None,
    allowed: tuple[str, ...],
    demo: bool,
    behind_https: bool = False,
    workers: int | None = None,
) -> None:
    """Serve until interrupted; prints the address when it listens. `workers`: processes for short work; none at all
    for 0, where all is done in threads. Raises `ServeError`."""
    passphrase = _passphrase(host, passphrase_file)
    folder = data or default_data()
    database = folder / DATABASE
    if database.exists() and not database.stat().st_size:
        if backups(database):
            raise ServeError(
                f"{database} is empty, though benches were in it. Nothing was begun anew{_or_restore(folder)}."
            )
        print(f"{database} was empty: it is begun anew.", flush=True)
    try:
        app = create_app(folder, _hosts(host, allowed), passphrase, demo, behind_https, host)
    except (OSError, DatabaseError, NewerDatabase) as error:
        reason = str(getattr(error, "orig", None) or error)
        raise ServeError(
            f"The benches in {folder} cannot be used: {reason}. Nothing in it was changed; name another with --data"
            f"{_or_restore(folder)}."
        ) from None
    few_arenas()
    try:
        opening = Opening(app, host, port)
    except OSError as error:
        raise ServeError(f"Port {port} on {host} cannot be used: {error.strerror}. Name another with --port.") from None
    reached = socket.gethostname() if host in ("0.0.0.0", "::") else host  # noqa: S104
    shown = f"[{reached}]" if ":" in reached else reached
    print(f"Viva Tick is at http://{shown}:{opening.port}/  (stop it with Ctrl+C)", flush=True)
    try:
        if workers == 0 or not Pool.possible():
            loading.loaded()
            opening.run(app)
        else:
            opening.run(_with_processes(app, opening, workers, behind_https))
    except KeyboardInterrupt:
        opening.close()


def _with_processes(app: Flask, opening: Opening, workers: int | None, behind_https: bool) -> Wsgi:
    """What stands before an application whose work is done by processes, when there are some."""
    opening.answer_early(wait_s=0.05)  # for who waits for the address
    for _ in warm(app):
        opening.answer_early()
    loading.loaded()
    app.extensions["runs"].close()  # a process has none of another's threads, and
    app.extensions["benches"].engine.dispose()  # must not have its connection
    front = Front(app, Pool(app, workers, before=opening.leave))
    return ProxyFix(front, **ONE_PROXY) if behind_https else front  # who asks is known before the work begins
