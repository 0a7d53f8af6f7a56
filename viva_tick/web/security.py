"""What keeps strangers out: host names, headers, and the passphrase where the server is open to a network."""

from __future__ import annotations

import hashlib
import hmac
import logging
import math
import os
import re
import secrets
import tempfile
import threading
import time
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from flask import Blueprint, Flask, Response, abort, current_app, redirect, render_template, request, session, url_for

LOOPBACK = {"127.0.0.1", "localhost", "::1"}
CSP = (
    "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; form-action 'self'; frame-ancestors 'none'; base-uri 'none'"
)
HEADERS = {
    "Content-Security-Policy": CSP,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=(), serial=(self)",
}
WRONG_MOST = 5  # from one address within
WRONG_WITHIN_S = 60.0  # this long; then that address is not heard for as long
WRONG_IN_ALL = 60  # from all together: then only who is in stays in

HOST = re.compile(r"(\[[0-9a-f:.]+\]|[0-9a-z._-]+)(:\d{1,5})?")
door = Blueprint("door", __name__)
log = logging.getLogger(__name__)


class OnlyHosts:
    """Answers to these host names alone, whatever their capitals and their port; to any other with a plain refusal, for
    no page can be linked to there. IPv6 addresses stand in brackets."""

    def __init__(self, app: Callable[..., Iterable[bytes]], hosts: Iterable[str]) -> None:
        self.app = app
        self.hosts = {
            f"[{host}]" if ":" in host and not host.startswith("[") else host for host in map(str.lower, hosts)
        }

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        said = HOST.fullmatch(str(environ.get("HTTP_HOST", "")).lower())
        if said is None or said[1] not in self.hosts:
            start("400 Bad Request", [("Content-Type", "text/plain; charset=utf-8"), *HEADERS.items()])
            return [b"This server does not answer to that host name.\n"]
        environ["HTTP_HOST"] = said[0]
        return self.app(environ, start)


class Guesses:
    """Wrong passphrases, by address and in all, of the last minute: who has guessed too often is told so at once, and
    no request waits for it."""

    def __init__(self) -> None:
        self._wrong: dict[str, list[float]] = {}
        self._lock = threading.Lock()

    def _recent(self, now_s: float) -> None:
        for address, times in list(self._wrong.items()):
            self._wrong[address] = [at for at in times if now_s - at < WRONG_WITHIN_S]
            if not self._wrong[address]:
                del self._wrong[address]

    def too_many(self, address: str, now_s: float) -> int:
        """For how many seconds an address is not heard; 0: it is."""
        with self._lock:
            self._recent(now_s)
            mine = self._wrong.get(address, [])
            every = sorted(at for times in self._wrong.values() for at in times)
            waits = [mine[-WRONG_MOST] + WRONG_WITHIN_S - now_s] if len(mine) >= WRONG_MOST else []
            waits += [every[-WRONG_IN_ALL] + WRONG_WITHIN_S - now_s] if len(every) >= WRONG_IN_ALL else []
            return math.ceil(max(waits, default=0))

    def wrong(self, address: str, now_s: float) -> None:
        """One more."""
        with self._lock:
            self._wrong.setdefault(address, []).append(now_s)


def door_salt(data: Path, passphrase: str | None) -> str:
    """What tickets are mixed with. Another passphrase makes another one, so that one that was in use before, and is
    again, revives no old ticket."""
    path = data / "door"
    try:
        salt, _, check = path.read_text().strip().partition(":")
    except (FileNotFoundError, UnicodeDecodeError):
        salt = check = ""
    wanted = hashlib.scrypt((passphrase or "").encode(), salt=salt.encode(), n=1 << 12, r=8, p=1).hex() if salt else ""
    if salt and hmac.compare_digest(wanted, check):
        return salt
    salt = secrets.token_hex(16)
    check = hashlib.scrypt((passphrase or "").encode(), salt=salt.encode(), n=1 << 12, r=8, p=1).hex()
    _write_whole(path, f"{salt}:{check}")
    return salt


def secret_key(data: Path) -> str:
    """The key that signs sessions, made once and kept beside the database, readable by its owner only. It is written
    beside its place and moved there whole; one that is empty or broken is made anew, and visitors are asked again."""
    path = data / "secret"
    try:
        found = path.read_text().strip()
    except (FileNotFoundError, UnicodeDecodeError):
        found = ""
    if re.fullmatch(r"[0-9a-f]{64}", found):
        return found
    if path.exists():
        log.warning("The secret in %s was empty or broken: a new one is made, and visitors are asked again.", path)
    key = secrets.token_hex(32)
    _write_whole(path, key)
    return key


def _write_whole(path: Path, text: str) -> None:
    """Write beside its place, and move it there whole; readable by its owner only."""
    descriptor, beside = tempfile.mkstemp(dir=path.parent, prefix=f"{path.name}-")
    with os.fdopen(descriptor, "w") as file:
        file.write(text)
        file.flush()
        os.fsync(file.fileno())
    os.replace(beside, path)


def _ticket() -> str:
    """What a session holds that was let in; another passphrase makes another one, so changing it shuts everyone out."""
    key, salt = current_app.config["SECRET_KEY"], current_app.config["DOOR_SALT"]
    said = f"{salt}:{current_app.config['PASSPHRASE']}"
    return hmac.new(key.encode(), said.encode(), "sha256").hexdigest()


def _from_elsewhere() -> bool:
    """Whether a page of another site makes the browser send this; browsers that say nothing of it are accepted, since
    the token is asked for besides."""
    site, origin = request.headers.get("Sec-Fetch-Site"), request.headers.get("Origin")
    if site is not None and site not in ("same-origin", "none"):
        return True
    return origin is not None and urlsplit(origin).netloc.lower() != request.host.lower()


def secure(app: Flask) -> None:
    """Put the headers on every answer and the door before every page."""

    @app.after_request
    def headers(response: Response) -> Response:
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        if not request.path.startswith("/static/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response

    @app.before_request
    def ask() -> Response | None:
        if request.method not in ("GET", "HEAD", "OPTIONS") and _from_elsewhere():
            abort(403, "This was sent by a page of another site; nothing was done.")
        if (
            not app.config["PASSPHRASE"]
            or session.get("let_in") == _ticket()
            or request.endpoint in ("static", "door.enter")
        ):
            return None
        if request.path.startswith("/api/"):
            abort(401)
        return redirect(url_for("door.enter"))  # type: ignore[return-value]

    app.extensions["guesses"] = Guesses()
    app.register_blueprint(door)


@door.route("/enter", methods=["GET", "POST"])
def enter() -> Response | str | tuple[str, int]:
    """Ask for the passphrase."""
    wanted = current_app.config["PASSPHRASE"]
    if not wanted:
        return redirect(url_for("pages.home"))  # type: ignore[return-value]
    if request.method == "GET":
        return render_template("enter.html", wrong=False)
    guesses: Guesses = current_app.extensions["guesses"]
    address, now_s = request.remote_addr or "", time.monotonic()
    if wait_s := guesses.too_many(address, now_s):
        page = render_template("enter.html", wrong=False, wait_s=wait_s)
        return Response(page, 429, {"Retry-After": str(wait_s)})
    if hmac.compare_digest(request.form.get("passphrase", "").encode(), wanted.encode()):
        session.clear()
        session["let_in"] = _ticket()
        return redirect(url_for("pages.home"))  # type: ignore[return-value]
    guesses.wrong(address, now_s)
    return render_template("enter.html", wrong=True), 403


@door.post("/leave")
def leave() -> Response:
    """Give the ticket back."""
    session.clear()
    return redirect(url_for("door.enter"))  # type: ignore[return-value]
