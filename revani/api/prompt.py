"""Connections on which nothing comes to its end are closed."""

import asyncio

from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

_HEADERS_WITHIN_S = 15.0


class PromptProtocol(HttpToolsProtocol):
    """HTTP/1.1 as uvicorn speaks it; the head of a request must come within its time (slow ones hold a place)."""

    _hurry: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """A connection: its first head is waited for."""
        super().connection_made(transport)
        self._wait_for_head()

    def data_received(self, data: bytes) -> None:
        """Bytes: of a head that was not begun, unless one is being waited for or answered."""
        if self._hurry is None and (self.cycle is None or self.cycle.response_complete):
            self._wait_for_head()
        super().data_received(data)

    def on_headers_complete(self) -> None:
        """The head is whole; its body is the guard's concern."""
        self._head_is_whole()
        super().on_headers_complete()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nothing more is waited for."""
        self._head_is_whole()
        super().connection_lost(exc)

    def _wait_for_head(self) -> None:
        self._hurry = self.loop.call_later(_HEADERS_WITHIN_S, self._too_slow)

    def _head_is_whole(self) -> None:
        if self._hurry is not None:
            self._hurry.cancel()
            self._hurry = None

    def _too_slow(self) -> None:
        self._hurry = None
        self.transport.close()
