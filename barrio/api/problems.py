"""Errors as problem documents (RFC 9457): a stable `type`, words with the way out, and the faults with their fields."""

from __future__ import annotations

from contextvars import ContextVar
from traceback import format_exception

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from psycopg import DataError, OperationalError
from psycopg.errors import DiskFull
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from barrio.app.desk import Forbidden, NotSignedIn
from barrio.app.door import NoEntry
from barrio.app.gate import Busy
from barrio.app.leaving import Left
from barrio.app.provider import Silent
from barrio.core import Fault, Refused
from barrio.store.errors import Missing, Raced, Stale, Unreachable

REQUEST: ContextVar[str] = ContextVar("request", default="")
"""The number of the request that is being answered; it stands in the answer, and in the log."""
log = structlog.get_logger()


class Problem(BaseModel):
    """The body of every error answer, as application/problem+json."""

    type: str
    title: str
    status: int
    detail: str
    faults: list[Fault] = []
    version: int | None = None
    request: str = ""


def answer(status: int, code: str, title: str, detail: str, **more: object) -> JSONResponse:
    body = Problem.model_validate(
        {
            "type": f"urn:barrio:problem:{code}",
            "title": title,
            "status": status,
            "detail": detail,
            "request": REQUEST.get(),
        }
        | more
    )
    return JSONResponse(body.model_dump(), status, media_type="application/problem+json")


def broken(path: str, error: Exception) -> JSONResponse:
    """The answer to a request over which Barrio itself broke; what broke stands in the log, under the request's number."""
    log.error("request broke", request=REQUEST.get(), path=path, traceback="".join(format_exception(error)))
    detail = "Something in Barrio broke over this request. Nothing was saved. Its number helps whoever mends it."
    return answer(500, "broken", "Barrio broke", detail)


def install(app: FastAPI) -> None:
    """Teach the app to answer with problem documents."""

    @app.exception_handler(Refused)
    def refused(_: Request, error: Refused) -> JSONResponse:
        faults = list(error.faults)
        return answer(422, error.faults[0].code, "This cannot be done", error.faults[0].message, faults=faults)

    @app.exception_handler(Missing)
    def missing(_: Request, error: Missing) -> JSONResponse:
        return answer(404, "missing", "There is no such thing", str(error))

    @app.exception_handler(Stale)
    def stale(_: Request, error: Stale) -> JSONResponse:
        faults = [Fault("stale.word", words, path, 0, 0) for path, words in error.words.items()]
        return answer(409, "stale", "Changed elsewhere", str(error), version=error.now, faults=faults)

    @app.exception_handler(Raced)
    def lost_race(_: Request, error: Raced) -> JSONResponse:
        return answer(409, "lost-race", "Numbers were taken meanwhile", str(error))

    @app.exception_handler(Unreachable)
    def unreachable(_: Request, error: Unreachable) -> JSONResponse:
        return answer(503, "unreachable", "Not now", str(error))

    @app.exception_handler(DiskFull)
    def full(_: Request, __: Exception) -> JSONResponse:
        detail = "The disk of the database is full. Nothing was saved; make room on it, then try again."
        return answer(503, "disk-full", "Not now", detail)

    @app.exception_handler(OperationalError)
    def busy(_: Request, __: Exception) -> JSONResponse:
        detail = "The database was lost in the middle of this. Nothing was saved; wait a moment, then try again."
        return answer(503, "unreachable", "Not now", detail)

    @app.exception_handler(Busy)
    def crowded(_: Request, error: Busy) -> JSONResponse:
        refusal = answer(429 if error.guess else 503, "busy", "Not now", str(error))
        refusal.headers["Retry-After"] = str(error.after)
        return refusal

    @app.exception_handler(NotSignedIn)
    def nobody(_: Request, __: NotSignedIn) -> JSONResponse:
        refusal = answer(
            401, "sign-in", "Sign in first", "Nobody is signed in here, or the session has ended. Sign in."
        )
        refusal.headers["WWW-Authenticate"] = "Bearer"
        return refusal

    @app.exception_handler(NoEntry)
    def no_entry(_: Request, error: NoEntry) -> JSONResponse:
        refusal = answer(401, f"sign-in.{error.missing or 'wrong'}", "Not signed in", str(error))
        refusal.headers["WWW-Authenticate"] = "Bearer"
        return refusal

    @app.exception_handler(Silent)
    def silent(_: Request, error: Silent) -> JSONResponse:
        return answer(502, "provider", "Not now", str(error))

    @app.exception_handler(Forbidden)
    def forbidden(_: Request, error: Forbidden) -> JSONResponse:
        return answer(403, f"may-not.{error.right}", "You may not", str(error))

    @app.exception_handler(DataError)
    @app.exception_handler(UnicodeEncodeError)
    def unstorable(_: Request, __: Exception) -> JSONResponse:
        detail = (
            "A text or a number of this request cannot be stored: it has characters that are none, or is too large."
        )
        return answer(422, "unstorable", "This cannot be done", detail)

    @app.exception_handler(Left)
    def left(_: Request, __: Left) -> JSONResponse:
        return answer(499, "left", "Nobody waits", "Whoever asked for this has gone.")

    @app.exception_handler(RequestValidationError)
    def malformed(_: Request, error: RequestValidationError) -> JSONResponse:
        faults = [
            Fault(
                code=f"request.{e['type']}", message=str(e["msg"]), path=".".join(map(str, e["loc"])), line=0, column=0
            )
            for e in error.errors()
        ]
        return answer(
            422, "request", "The request is malformed", f"{faults[0].path}: {faults[0].message}", faults=faults
        )

    @app.exception_handler(HTTPException)
    def http(_: Request, error: HTTPException) -> JSONResponse:
        return answer(error.status_code, f"http-{error.status_code}", "Not possible", str(error.detail))
