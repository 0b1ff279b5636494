"""What stands before the application: an event loop that waits for slow clients, so that no thread
has to.

A request gets a thread when its body is here. News is told by the loop itself. Nobody may hold more
than a client needs.
"""

from __future__ import annotations

import asyncio
import contextlib
import json
import tempfile
from collections import Counter
from collections.abc import Awaitable, Callable, Iterator, MutableMapping
from http import HTTPStatus
from pathlib import Path
from typing import IO, Any

from a2wsgi import WSGIMiddleware
from werkzeug.wsgi import FileWrapper

from .news import News

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
THREADS = 32
GATHERED, IN_MEMORY, PIECE = 16 << 20, 1 << 20, 1 << 18  # bytes
LONGEST_JSON = (
    8_000_000  # bytes of a document that says how long it is; others end with what is gathered
)
LONG_BODIES = 8  # that go on past what is gathered, at a time
SILENCE = 30.0  # seconds without a byte of a body that was promised
QUIET = 15.0  # seconds between signs of life in a stream of news
STREAMS, BODIES = 64, 256  # of one client at a time
NEWS = b"text/event-stream"
PIECES, FILES = (
    "/api/uploads",
    ("/api/uploads", "/api/trials"),
)  # where files come in, by pieces or at once


class TooMany(Exception):
    """A client holds more than one client needs."""


class _Held:
    """Counts what each client holds of something."""

    def __init__(self, most: int) -> None:
        self._most, self._by = most, Counter[str]()

    @contextlib.contextmanager
    def one(self, client: str) -> Iterator[None]:
        """Hold one more.

        Raises:
            TooMany: it holds as many as it may.
        """
        if self._by[client] >= self._most:
            raise TooMany
        self._by[client] += 1
        try:
            yield
        finally:
            self._by[client] -= 1
            if not self._by[client]:
                del self._by[client]


class _Body:
    """A request's body: gathered up to a size, and read on from there."""

    def __init__(self, receive: Receive, spool: Path) -> None:
        self._receive = receive
        # closed in `close`
        self._kept: IO[bytes] = tempfile.SpooledTemporaryFile(IN_MEMORY, dir=str(spool))  # noqa: SIM115
        self._size = 0
        self.whole = self.broken = self.silent = False

    async def gather(self) -> None:
        """Take in what comes until the body ends, breaks off, falls silent, or is long."""
        while not (self.whole or self.broken or self.silent) and self._size < GATHERED:
            piece = await self._next()
            self._kept.write(piece)
            self._size += len(piece)
        self._kept.seek(0)

    async def _next(self) -> bytes:
        try:
            message = await asyncio.wait_for(self._receive(), SILENCE)
        except TimeoutError:
            self.silent = True
            return b""
        self.broken = message["type"] == "http.disconnect"
        self.whole = not self.broken and not message.get("more_body", False)
        return bytes(message.get("body", b""))

    async def replay(self) -> Message:
        """Give the body to the application, piece by piece; one that broke off ends where it
        did.
        """
        piece = self._kept.read(PIECE)
        if not piece and not (self.whole or self.broken or self.silent):
            piece = await self._next()
            return {
                "type": "http.request",
                "body": piece,
                "more_body": not (self.whole or self.broken or self.silent),
            }
        ended = self.whole or self.broken or self.silent
        more = not ended or self._kept.tell() < self._size
        return {"type": "http.request", "body": piece, "more_body": more}

    async def gone(self) -> None:
        """Wait until the client has gone."""
        while not self.broken:
            self.broken = (await self._receive())["type"] == "http.disconnect"

    def close(self) -> None:
        """Let go of what was gathered."""
        self._kept.close()


class Front:
    """The application for an ASGI server.

    Args:
        app: the WSGI application, which gets a thread for each request that is here.
        news: what is told to the pages.
        spool: folder for bodies too long for memory.
    """

    def __init__(self, app: Any, news: News, spool: Path) -> None:
        self._rest = WSGIMiddleware(_with_files(app), workers=THREADS)
        self._news, self._spool = news, spool
        self._streams, self._bodies = _Held(STREAMS), _Held(BODIES)
        self._long = asyncio.Semaphore(LONG_BODIES)

    async def __call__(self, scope: Any, receive: Receive, send: Send) -> None:
        """Answer one request."""
        if scope["type"] != "http":
            await self._rest(scope, receive, send)  # type: ignore[arg-type]
            return
        if not scope["query_string"].isascii():
            await _refuse(
                send,
                400,
                "The address has characters that no address has.",
                "Write them with %.",
                "http",
            )
            return
        head = dict(scope["headers"])
        if (
            b"json" in head.get(b"content-type", b"")
            and int(head.get(b"content-length", b"0")) > LONGEST_JSON
        ):
            way_out = "Send a spec or a choice, not a file."
            await _refuse(
                send,
                413,
                f"The request has {int(head[b'content-length'])} bytes; {LONGEST_JSON} are read.",
                way_out,
                "too-long",
            )
            return
        client = (scope.get("client") or ("",))[0]
        body = _Body(receive, self._spool)
        try:
            with self._bodies.one(client):
                await body.gather()
            await self._answer(scope, body, client, send)
        except TooMany:
            await _refuse(
                send,
                429,
                "Too much is going on from this address.",
                "Close pages that are not looked at, then try again.",
                "too-many",
                retry=5,
            )
        finally:
            body.close()

    async def _answer(self, scope: Any, body: _Body, client: str, send: Send) -> None:
        upload = scope["path"].startswith(PIECES)  # of one that breaks off, what came is kept
        if body.silent and not upload:
            await _refuse(
                send,
                408,
                f"Nothing more came of the request for {SILENCE:.0f} s.",
                "Send it again.",
                "silent",
            )
        elif body.broken and not upload:
            return
        elif not body.whole and not scope["path"].startswith(FILES):
            await _refuse(
                send,
                413,
                f"The request has more than {GATHERED} bytes.",
                "Send a spec or a choice; files come in by pieces.",
                "too-long",
            )
        elif scope["path"] == "/api/events":
            with self._streams.one(client):
                await self._stream(scope, body, send)
        elif body.whole or body.broken or body.silent:
            await self._rest(scope, body.replay, send)  # type: ignore[arg-type]
        else:
            await self._go_on(scope, body, send)

    async def _go_on(self, scope: Any, body: _Body, send: Send) -> None:
        """Give a thread to a body that is still coming in, to few at a time; what is done with it
        after counts no more.
        """
        try:
            await asyncio.wait_for(self._long.acquire(), SILENCE)
        except TimeoutError:
            await _refuse(
                send,
                503,
                "Many files are coming in.",
                "Wait a moment; what has arrived is kept.",
                "busy",
                retry=5,
            )
            return
        with contextlib.ExitStack() as held:
            held.callback(self._long.release)

            async def replay() -> Message:
                message = await body.replay()
                if not message["more_body"]:
                    held.close()
                return message

            await self._rest(scope, replay, send)  # type: ignore[arg-type]

    async def _stream(self, scope: Any, body: _Body, send: Send) -> None:
        """Let the application say whether there is a stream, then tell the news for as long as
        someone listens.
        """
        begun: list[bool] = []

        async def opening(message: Message) -> None:
            if message["type"] == "http.response.start":
                kinds = [value for name, value in message["headers"] if name == b"content-type"]
                begun.append(message["status"] == 200 and kinds[0].startswith(NEWS))
                if begun[0]:
                    message["headers"] = [
                        pair for pair in message["headers"] if pair[0] != b"content-length"
                    ]
                await send(message)
            elif not begun[0]:
                await send(message)

        mine = self._news.subscribe()
        try:
            await self._rest(scope, body.replay, opening)  # type: ignore[arg-type]
            if begun == [True]:
                await self._tell(mine, body, send)
        finally:
            self._news.unsubscribe(mine)

    async def _tell(self, mine: asyncio.Queue[str], body: _Body, send: Send) -> None:
        gone = asyncio.ensure_future(body.gone())
        try:
            await send(_line("retry: 1500"))
            while not gone.done():
                heard = asyncio.ensure_future(mine.get())
                await asyncio.wait(
                    {heard, gone}, timeout=QUIET, return_when=asyncio.FIRST_COMPLETED
                )
                if heard.done():
                    await send(_line(f"data: {heard.result()}"))
                else:
                    heard.cancel()
                    if not gone.done():
                        await send(_line(": still here"))
        finally:
            gone.cancel()


def _line(text: str) -> Message:
    return {"type": "http.response.body", "body": f"{text}\n\n".encode(), "more_body": True}


async def _refuse(
    send: Send, status: int, detail: str, way_out: str, code: str, retry: int = 0
) -> None:
    """Answer with problem details (RFC 9457) before the application is asked."""
    body = {
        "type": f"urn:ample-crate:{code}",
        "title": HTTPStatus(status).phrase,
        "status": status,
        "detail": detail,
        "way_out": way_out,
    }
    headers = [(b"content-type", b"application/problem+json"), (b"connection", b"close")]
    headers += [(b"retry-after", str(retry).encode())] if retry else []
    await send({"type": "http.response.start", "status": status, "headers": headers})
    await send({"type": "http.response.body", "body": json.dumps(body).encode()})


def _with_files(app: Any) -> Any:
    """Let files go out in large pieces, and bodies end where they end."""

    def wrapped(environ: dict[str, Any], start_response: Any) -> Any:
        environ["wsgi.input_terminated"] = True
        environ["wsgi.file_wrapper"] = lambda file, size=PIECE: FileWrapper(file, PIECE)
        return app(environ, start_response)

    return wrapped
