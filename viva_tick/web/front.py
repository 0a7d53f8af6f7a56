"""Before the application: what takes work is sent to a process of the pool, the rest is answered here."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from io import BytesIO
from typing import Any

from flask import Flask

from .turns import REFUSED, TOO_MANY, Turns, visitor
from .workers import Ended, Gone, Job, Pool, TooLong

# Answered by the threads themselves: what takes no work, and what all processes must know of (guesses, a restore).
HERE = ("/static/", "/enter", "/leave", "/restore")
SENTENCES = {
    TooLong: "This took over a minute and was ended. What was saved is kept: reload to see how far it came.",
    Ended: "What worked on this ended unexpectedly, for want of memory most often. What was saved is kept: reload.",
}


class Front:
    """WSGI, as the server calls it."""

    def __init__(self, app: Flask, pool: Pool) -> None:
        self.app = app
        self.pool = pool
        self.turns: Turns = app.extensions["turns"]

    def __call__(self, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        path = environ.get("PATH_INFO", "")
        too_much = int(environ.get("CONTENT_LENGTH") or 0) > self.app.config["MAX_CONTENT_LENGTH"]
        if too_much or path.startswith(HERE):
            answer = self.app(environ, start)
            if path == "/restore":
                self.pool.renew()
            return answer
        who = visitor(self.app, environ)
        if not self.turns.begin(who):
            return self._refused(TOO_MANY, environ, start)
        try:
            return self._worked(who, path, environ, start)
        finally:
            self.turns.end(who)

    def _worked(self, who: str, path: str, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        said = {name: value for name, value in environ.items() if isinstance(value, str)}
        job = Job(said, environ["wsgi.input"].read())
        gone = environ.get("waitress.client_disconnected", lambda: False)
        try:
            answer = self.pool.answer(job, who, gone)
            if answer.status.startswith("404") and path.startswith("/api/runs/"):
                answer = self.pool.elsewhere(job, who, answer)
        except Gone:
            start("499 Left", [])
            return []
        except Ended as error:
            return self._refused(SENTENCES[type(error)], environ, start)
        except OSError:  # the machine gives no process: this thread does it
            return self.app({**environ, "wsgi.input": BytesIO(job.body)}, start)
        start(answer.status, answer.headers)
        return [answer.body]

    def _refused(self, sentence: str, environ: dict[str, Any], start: Callable[..., Any]) -> Iterable[bytes]:
        """The application says so, as it says everything."""
        return self.app({**environ, REFUSED: sentence}, start)
