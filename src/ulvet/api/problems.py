"""Errors as RFC 9457 problem details, each with a sentence a designer understands."""

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException

from ulvet.core.bench.setup import UnknownOnBench
from ulvet.core.formats.errors import UnreadableFile
from ulvet.core.recipe.reading import UnreadableRecipe
from ulvet.core.size.ways import UnusableSize
from ulvet.store.blobs import DISK_FULL, DISK_FULL_SAYS, MissingBlob
from ulvet.work.refusals import Conflict, NotThere, Refused

__all__ = ["install_problems", "problem"]

_STATUS: dict[type[Exception], tuple[int, str]] = {
    NotThere: (404, "Not there"),
    MissingBlob: (404, "Not there"),
    UnreadableRecipe: (409, "Cannot be used"),
    Conflict: (412, "Changed elsewhere"),
    Refused: (422, "Cannot be done"),
    UnknownOnBench: (422, "Not on the bench"),
    UnreadableFile: (422, "Cannot be read"),
    UnusableSize: (422, "Not a size"),
}


def problem(status: int, title: str, detail: str) -> JSONResponse:
    """A problem-details answer."""
    return JSONResponse(
        {"type": "about:blank", "title": title, "status": status, "detail": detail},
        status,
        media_type="application/problem+json",
    )


def install_problems(app: FastAPI) -> None:
    """Turn every error the studio raises for its user into a problem."""
    for kind, (status, title) in _STATUS.items():
        app.add_exception_handler(kind, _handler(status, title))

    @app.exception_handler(OSError)
    def _disk(request: Request, error: OSError) -> JSONResponse:
        if error.errno not in DISK_FULL:
            raise error
        return problem(507, "Disk full", DISK_FULL_SAYS)

    @app.exception_handler(OperationalError)
    def _database(request: Request, error: OperationalError) -> JSONResponse:
        if "disk is full" not in str(error.orig):
            raise error
        return problem(507, "Disk full", DISK_FULL_SAYS)

    @app.exception_handler(RequestValidationError)
    def _invalid(request: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        where = " ".join(str(part) for part in first["loc"][1:]) or "the request"
        return problem(422, "Cannot be used", f"{where}: {first['msg']}.")

    @app.exception_handler(HTTPException)
    def _http(request: Request, error: HTTPException) -> JSONResponse:
        return problem(error.status_code, "Not possible", str(error.detail))


def _handler(status: int, title: str):  # type: ignore[no-untyped-def]  # the framework's handler type
    def answer(request: Request, error: Exception) -> JSONResponse:
        return problem(status, title, str(error))

    return answer
