"""The application, put together."""

from __future__ import annotations

import os
from contextlib import suppress
from datetime import datetime
from pathlib import Path
from sqlite3 import Error
from typing import Any

from flask import Flask, Response, jsonify, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect
from jinja2 import FileSystemBytecodeCache
from werkzeug.exceptions import HTTPException
from werkzeug.middleware.proxy_fix import ProxyFix
from werkzeug.routing import IntegerConverter, Map

from .. import __version__
from ..core.document import DocumentError
from ..core.units import amps, at_s, counted, fine, ms, ohms, plain, short, volts
from ..demo import ORDER, demo_bench
from ..demo.log import demo_entries, demo_revisions
from ..store import Benches, NoBench, Record, Stale, back_up_today, open_database
from . import patches, trouble, turns, written
from .answers import refused, stale
from .calculating import calculating
from .drilling import drilling
from .edits import edits
from .gallery import gallery
from .guide import guide
from .handed import handed
from .hanging import hanging
from .imports import imports
from .kept_contacts import kept_contacts
from .long_captures import long_captures
from .pages import pages
from .phone import phone
from .playing import playing
from .reading import reading
from .recording import recording
from .repeating import repeating
from .security import OnlyHosts, door_salt, secret_key, secure
from .shelves import shelves
from .strip_api import strips
from .telling import telling
from .typed import typed
from .warming import stores

MOST_UPLOAD = 42_000_000


DATABASE = "viva-tick.sqlite"
ONE_PROXY = {"x_for": 1, "x_proto": 1, "x_host": 1}  # what it says of who asks for what


class Number(IntegerConverter):
    """A number in an address, of those that a database can hold; beyond them there is nothing."""

    def __init__(self, map: Map, **limits: Any) -> None:
        super().__init__(map, **{"max": (1 << 63) - 1, **limits})


def create_app(
    data: Path,
    hosts: list[str],
    passphrase: str | None = None,
    demo: bool = False,
    behind_https: bool = False,
    listens: str = "",
) -> Flask:
    """The Flask application over the benches kept in the folder `data`, answering to `hosts` only. `behind_https`: one
    proxy stands before it that speaks HTTPS and says who asks for what; cookies are sent to nothing else. `listens`:
    the address that the server listens to."""
    data.mkdir(parents=True, exist_ok=True, mode=0o700)
    for path in (data / DATABASE, data / "secret"):
        if path.exists():
            with suppress(OSError):  # another's, or on a disk that knows no rights: it is used as it is
                path.chmod(0o600)
        elif path.name == DATABASE:
            path.touch(mode=0o600)  # what SQLite puts beside it is as open as the file itself
    app = Flask(__name__)
    app.config.update(
        SECRET_KEY=secret_key(data),
        MAX_CONTENT_LENGTH=MOST_UPLOAD,
        MAX_FORM_MEMORY_SIZE=MOST_UPLOAD,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        SESSION_COOKIE_SECURE=behind_https,
        PASSPHRASE=passphrase,
        LISTENS=listens,
        DOOR_SALT=door_salt(data, passphrase) if passphrase else "",
        SEND_FILE_MAX_AGE_DEFAULT=3600,
    )
    app.wsgi_app = OnlyHosts(app.wsgi_app, hosts)  # type: ignore[method-assign, assignment]
    if behind_https:
        app.wsgi_app = ProxyFix(app.wsgi_app, **ONE_PROXY)  # type: ignore[method-assign]
    engine = open_database(data / DATABASE)
    app.extensions |= stores(engine)
    turns.init(app)
    CSRFProtect(app)
    secure(app)
    app.url_map.converters["int"] = Number
    for blueprint in (
        pages,
        edits,
        imports,
        shelves,
        gallery,
        strips,
        hanging,
        repeating,
        telling,
        playing,
        handed,
        phone,
        recording,
        long_captures,
        kept_contacts,
        reading,
        calculating,
        drilling,
        guide,
    ):
        app.register_blueprint(blueprint)
    app.jinja_env.bytecode_cache = _compiled_templates()
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.filters.update(
        ms=ms,
        at_s=at_s,
        fine=fine,
        ohms=ohms,
        amps=amps,
        counted=counted,
        volts=volts,
        short=short,
        plain=plain,
        typed=typed,
        lower_first=lambda text: text[:1].lower() + text[1:],
    )
    patches.init(app)
    written.init(app)
    app.jinja_env.globals["version"] = __version__
    _errors(app)
    trouble.init(app)
    if demo:
        put_in_demos(app.extensions["benches"], app.extensions["record"])
    _backed_up_daily(app, data / DATABASE)
    return app


def _compiled_templates() -> FileSystemBytecodeCache | None:
    """Templates stay compiled beside themselves, as Python's own files do, where they can be written there."""
    folder = Path(__file__).parent / "templates" / "__pycache__"
    try:
        folder.mkdir(exist_ok=True)
    except OSError:
        return None
    return FileSystemBytecodeCache(str(folder), "%s.safe") if os.access(folder, os.W_OK) else None


def _backed_up_daily(app: Flask, database: Path) -> None:
    """A copy of the day, as the program starts, and of each day on which it goes on answering."""
    app.extensions["database"] = database
    done = ""

    def look() -> None:
        nonlocal done
        today = f"{datetime.now():%Y-%m-%d}"  # noqa: DTZ005  (the person's day)
        if today == done:
            return
        done = today
        try:
            back_up_today(database, today)
        except (OSError, Error) as error:
            app.logger.warning("No backup of the day could be made: %s", error)

    look()
    app.before_request(look)


def put_in_demos(benches: Benches, record: Record) -> None:
    """Each demo bench that is not there yet, with its log."""
    for name in ORDER:
        if benches.demo_id(name) is None:
            bench = demo_bench(name)
            before, words = demo_revisions(name, bench)
            made = benches.create(bench, words, demo=name, before=before)
            for kind, said, data, kept in demo_entries(name, made.bench):
                record.add(made.bench_id, made.id, kind, said, data, kept)


def _errors(app: Flask) -> None:
    def answer(status: int, title: str, sentence: str, next_step: str) -> Any:
        if request.path.startswith("/api/"):
            return jsonify(error=sentence, next=next_step), status
        return render_template("error.html", title=title, sentence=sentence, next_step=next_step), status

    @app.errorhandler(CSRFError)
    def no_token(error: CSRFError) -> Any:
        return answer(400, "Not sent", "This page is out of date or was not ours.", "Reload the page and do it again.")

    @app.errorhandler(NoBench)
    def no_bench(error: NoBench) -> Any:
        return answer(
            404, "No such bench", "This bench is not here; it may have been taken away.", "Go back to all benches."
        )

    @app.errorhandler(HTTPException)
    def other(error: HTTPException) -> Any:
        said = {
            401: ("The passphrase is asked for again.", "Reload the page."),
            404: ("There is nothing at this address.", "Go back to all benches."),
            413: (
                f"What was sent is over {MOST_UPLOAD // 1_000_000} MB, or in more parts than any form of ours.",
                "Cut it down and send it again; nothing was kept of it.",
            ),
        }
        sentence, step = said.get(error.code or 500, (error.description or error.name, "Go back and try again."))
        return answer(error.code or 500, error.name, sentence, step)

    @app.errorhandler(Exception)
    def ours(error: Exception) -> Any:
        app.logger.exception("unforeseen")
        return answer(
            500,
            "Our mistake",
            "Something went wrong here that we did not foresee. Every saved edit is kept.",
            "Reload the page; if it comes again, undo the last edit.",
        )

    @app.errorhandler(DocumentError)
    def document(error: DocumentError) -> tuple[Response, int]:
        return refused(error)

    @app.errorhandler(Stale)
    def moved_on(error: Stale) -> tuple[Response, int]:
        return stale(error, "")
