"""What routes are given."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, cast

from fastapi import Depends, Header, HTTPException, Request

from revani.store.pool import Connection, Pool


def pool_of(request: Request) -> Pool:
    """The application's pool."""
    return cast(Pool, request.app.state.pool)


# For a route that reads and then computes: it takes a connection for as long as it reads.
Pooled = Annotated[Pool, Depends(pool_of)]


async def _connection(request: Request) -> AsyncIterator[Connection]:
    async with pool_of(request).connection() as conn:
        yield conn


# Of function scope: it commits, and goes back to the pool, before anything is answered. What is acknowledged is
# committed, and no download or stream holds a connection.
Db = Annotated[Connection, Depends(_connection, scope="function")]


_AT_ONCE, _MOST_WAITING = 4, 60


class _Room:
    """So much is computed at once, so much more may wait, and the rest is sent away."""

    def __init__(self) -> None:
        self._places = asyncio.Semaphore(_AT_ONCE)
        self._waiting = 0

    async def __call__(self) -> AsyncIterator[None]:
        """Hold a place for the time of a request. Raises HTTPException(503)."""
        if self._waiting >= _MOST_WAITING:
            raise HTTPException(503, "Too much is asked for at once; try again in a moment.", {"Retry-After": "1"})
        self._waiting += 1
        try:
            await self._places.acquire()
        finally:
            self._waiting -= 1
        try:
            yield
        finally:
            self._places.release()


# For the routes that compile, judge or draw.
Costly = Depends(_Room(), scope="function")
Over = Annotated[int, Header(alias="If-Match", ge=1, le=2_000_000_000, description="The version that was read.")]
