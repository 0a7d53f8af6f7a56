"""What keeps strangers out: host names, headers, and the passphrase where the server is open to a network."""

from __future__ import annotations

import hmac
import logging
import os
import re
import secrets
import tempfile
import time
from pathlib import Path

from flask import Blueprint, Flask, Response, abort, current_app, redirect, render_template, request, session, url_for
from werkzeug.exceptions import SecurityError

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
    "Permissions-Policy": "camera=(), microphone=(), geolocation=()",
}
WRONG_PAUSE_S = 1.0  # each wrong passphrase costs this long

door = Blueprint("door", __name__)
log = logging.getLogger(__name__)


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
    descriptor, beside = tempfile.mkstemp(dir=data, prefix="secret-")  # readable by its owner only
    with os.fdopen(descriptor, "w") as file:
        file.write(key)
        file.flush()
        os.fsync(file.fileno())
    os.replace(beside, path)
    return key


def _ticket() -> str:
    """What a session holds that was let in; another passphrase makes another one, so changing it shuts everyone out."""
    key, passphrase = current_app.config["SECRET_KEY"], current_app.config["PASSPHRASE"]
    return hmac.new(key.encode(), passphrase.encode(), "sha256").hexdigest()


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
        if isinstance(request.routing_exception, SecurityError):
            raise request.routing_exception  # no page can be linked to for a host that is not ours
        if (
            not app.config["PASSPHRASE"]
            or session.get("let_in") == _ticket()
            or request.endpoint in ("static", "door.enter")
        ):
            return None
        if request.path.startswith("/api/"):
            abort(401)
        return redirect(url_for("door.enter"))  # type: ignore[return-value]

    app.register_blueprint(door)


@door.route("/enter", methods=["GET", "POST"])
def enter() -> Response | str | tuple[str, int]:
    """Ask for the passphrase."""
    wanted = current_app.config["PASSPHRASE"]
    if not wanted:
        return redirect(url_for("pages.home"))  # type: ignore[return-value]
    if request.method == "GET":
        return render_template("enter.html", wrong=False)
    if hmac.compare_digest(request.form.get("passphrase", "").encode(), wanted.encode()):
        session.clear()
        session["let_in"] = _ticket()
        return redirect(url_for("pages.home"))  # type: ignore[return-value]
    time.sleep(WRONG_PAUSE_S)
    return render_template("enter.html", wrong=True), 403
