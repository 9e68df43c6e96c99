"""What every answer carries and every write must bring, so that other pages in the browser cannot use the studio."""

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ulvet.api.problems import problem

__all__ = ["WRITE_HEADER", "Guard"]

WRITE_HEADER = "X-Ulvet"
"""Header that every write carries. A foreign page cannot send it without asking first, and is never allowed to."""
_READS = frozenset({"GET", "HEAD", "OPTIONS"})
# The hash is that of an empty style element, which the interface library adds and fills by script.
_ALWAYS = {
    "Content-Security-Policy": "default-src 'self'; "
    "style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='; "
    "img-src 'self' data:; object-src 'none'; base-uri 'none'; "
    "form-action 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}


class Guard:
    """Middleware about the whole application."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket" and not _from_here(Headers(scope=scope)):
            # Closed before it was accepted, which the browser is told as 403.
            await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _ALWAYS.items():
                    headers[name] = value
            await send(message)

        if scope["method"] in _READS or WRITE_HEADER in Headers(scope=scope):
            await self._app(scope, receive, guarded)
            return
        refusal = problem(
            403,
            "Not from the page",
            f"Nothing was changed: a write must carry the header {WRITE_HEADER}, as those of the page do.",
        )
        await refusal(scope, receive, guarded)


def _from_here(headers: Headers) -> bool:
    """Whether a websocket is opened by a page of this server; browsers say so themselves, and ask nobody first."""
    return headers.get("origin") in (None, f"http://{headers.get('host')}")
