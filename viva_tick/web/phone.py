"""The panel on a phone: its address as a QR code, where the server can be reached from the network."""

from __future__ import annotations

import socket
from typing import Any

from flask import Blueprint, current_app, jsonify, render_template, request, url_for

from .answers import benches
from .security import LOOPBACK

phone = Blueprint("phone", __name__)

NOWHERE = ("192.0.2.1", 9)  # an address for examples, RFC 5737: to choose a way there nothing is sent
ANY = ("0.0.0.0", "::")  # noqa: S104  (what it listens to, not what it binds here)


def network_address() -> str | None:
    """The address of this machine in its network; None where it is in none."""
    try:
        with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as way:
            way.connect(NOWHERE)
            found = str(way.getsockname()[0])
    except OSError:
        return None
    return None if found in LOOPBACK or found == "0.0.0.0" else found  # noqa: S104


def _reached() -> str | None:
    """The host, with its port, by which another machine reaches this server; None where none can."""
    asked, listens = request.host, current_app.config["LISTENS"]
    name = request.host.rpartition(":")[0].strip("[]") if ":" in asked else asked
    if name not in LOOPBACK and not name.startswith("127."):
        return asked  # as it was reached already
    if listens not in ANY:
        return None if not listens or listens in LOOPBACK else asked.replace(name, listens)
    found = network_address()
    return f"{found}:{asked.rpartition(':')[2]}" if found and ":" in asked else found


@phone.get("/api/benches/<int:bench_id>/phone")
def panel_on_phone(bench_id: int) -> Any:
    """What to do to have the panel on a phone, as drawn: the code of its address, or how to open the server."""
    benches().head(bench_id)
    host = _reached()
    address = code = None
    if host:
        address = f"{request.scheme}://{host}{url_for('pages.workspace', bench_id=bench_id, station='try')}?alone=1"
        import segno  # only this page needs it

        code = segno.make(address, error="m").svg_inline(scale=5, border=3, dark="#000", light="#fff")
    html = render_template("fragments/phone.html", address=address, code=code, guarded=current_app.config["PASSPHRASE"])
    return jsonify(html=html)
