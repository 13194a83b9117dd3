"""What every request passes before anything reads it, and what every answer carries.

Sources: OWASP ASVS 4.0.3 V13 and V14.4; Fetch Metadata (W3C); RFC 9110 (HEAD, conditional requests).
"""

import asyncio
import time
from urllib.parse import urlsplit

from fastapi import HTTPException
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from revani.api.problems import answer
from revani.exports.problem import Problem

MOST_BYTES = 2_000_000
_BODY_WITHIN_S = 20.0
_LOCAL = ("127.0.0.1", "localhost", "[::1]")
_SAFE = ("GET", "HEAD")

# Everything comes from here; nothing is framed, and nothing may be run that is not a file of ours.
# The one inline style is an empty element, which the interface's styles are added to by script: its hash is that of
# no text at all.
_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; media-src 'self' blob:; "
    "style-src 'self' 'sha256-47DEQpj8HBSa+/TImW+5JCeuQeRkm5NMpJWZG3hSuFU='; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
_CARRIED = {
    "Content-Security-Policy": _POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Guard:
    """Refuses foreign hosts and pages, odd paths, and bodies that are too large or too slow; answers HEAD.

    `port` is the one that the page has: its addresses are the only origin there is.
    """

    def __init__(self, app: ASGIApp, port: int) -> None:
        self._app = app
        self._hosts = {f"{name}:{port}" for name in _LOCAL}
        self._origins = {f"http://{host}" for host in self._hosts}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Let a request through, or answer it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        reply = _Reply(scope, send)
        if (refused := self._refused(scope)) is not None:
            await answer(refused)(scope, receive, reply)
            return
        # Routes know GET; the answer to HEAD is the same without its body.
        inner = {**scope, "method": "GET"} if scope["method"] == "HEAD" else scope
        await self._app(inner, _Prompt(receive), reply)

    def _refused(self, scope: Scope) -> Problem | None:
        headers = Headers(scope=scope)
        if headers.get("host", "") not in self._hosts:
            return Problem(title="Wrong host", status=421, detail="Open Revani at 127.0.0.1 or localhost.")
        raw = scope.get("raw_path") or b""
        if "\x00" in scope["path"] or any(byte < 0x20 or byte == 0x7F for byte in raw) or not _readable(scope["path"]):
            return Problem(title="Not readable", status=400, detail="This address has characters that no address has.")
        if not self._ours(scope, headers):
            return Problem(title="Wrong origin", status=403, detail="Only Revani's own pages may ask for this.")
        length = headers.get("content-length", "0")
        if not (length.isascii() and length.isdecimal()) or int(length) > MOST_BYTES:
            return Problem(title="Too large", status=413, detail="A document may have at most 2 MB.")
        return None

    def _ours(self, scope: Scope, headers: Headers) -> bool:
        """Whether a request comes from a page of ours, or from no page at all."""
        for origin in headers.getlist("origin"):
            if _plain(origin) not in self._origins:
                return False
        site = headers.get("sec-fetch-site", "none")
        if site in ("same-origin", "none"):
            return True
        # A link elsewhere may lead to a page of ours, and nowhere else.
        page = scope["method"] in _SAFE and not scope["path"].startswith("/api/")
        return page and headers.get("sec-fetch-mode") == "navigate"


def _readable(path: str) -> bool:
    return all(letter == " " or letter.isprintable() for letter in path)


def _plain(origin: str) -> str:
    """An origin as it is compared; empty where it is none."""
    try:
        parts = urlsplit(origin)
        return f"{parts.scheme}://{parts.netloc}" if parts.hostname and not parts.path else ""
    except ValueError:
        return ""


class _Prompt:
    """The body of a request, which must come whole within its time and size."""

    def __init__(self, receive: Receive) -> None:
        self._receive = receive
        self._taken = 0
        self._whole = False
        self._until_s = time.monotonic() + _BODY_WITHIN_S

    async def __call__(self) -> Message:
        # Once it is whole, the next message is only that the other side has gone.
        left_s = None if self._whole else max(self._until_s - time.monotonic(), 0.0)
        try:
            message = await asyncio.wait_for(self._receive(), left_s)
        except TimeoutError:
            raise HTTPException(408, "The request did not come to its end in time.") from None
        self._taken += len(message.get("body", b""))
        self._whole = message["type"] != "http.request" or not message.get("more_body", False)
        if self._taken > MOST_BYTES:
            raise HTTPException(413, "A document may have at most 2 MB.")
        return message


class _Reply:
    """An answer, with what every answer carries; without its body for HEAD, or where the other side has it already."""

    def __init__(self, scope: Scope, send: Send) -> None:
        self._send = send
        self._asked = Headers(scope=scope)
        self._api = scope["path"].startswith("/api/")
        self._bodiless = scope["method"] == "HEAD"
        self._may_be_known = scope["method"] in _SAFE
        self._ended = False

    async def __call__(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            headers = MutableHeaders(raw=message["headers"])
            for name, value in _CARRIED.items():
                headers[name] = value
            if self._api:
                headers.setdefault("Cache-Control", "no-store")
            if self._may_be_known and message["status"] == 200 and self._known(headers):
                message["status"], self._bodiless = 304, True
                del headers["content-length"]
        elif message["type"] == "http.response.body" and self._bodiless:
            if self._ended:
                return
            self._ended = True
            message = {"type": "http.response.body", "body": b"", "more_body": False}
        await self._send(message)

    def _known(self, answer: MutableHeaders) -> bool:
        """Whether the other side has this already (RFC 9110, 13.1.2 and 13.1.3)."""
        tags, tag = self._asked.get("if-none-match"), answer.get("etag")
        if tags is not None and tag is not None:
            wanted = {one.strip().removeprefix("W/") for one in tags.split(",")}
            return tags.strip() == "*" or tag.removeprefix("W/") in wanted
        since, last = self._asked.get("if-modified-since"), answer.get("last-modified")
        return tags is None and since is not None and since == last
