"""What routes are given."""

from collections.abc import AsyncIterator
from typing import Annotated, cast

from fastapi import Depends, Header, Request

from revani.store.pool import Connection, Pool


def pool_of(request: Request) -> Pool:
    """The application's pool."""
    return cast(Pool, request.app.state.pool)


async def _connection(request: Request) -> AsyncIterator[Connection]:
    async with pool_of(request).connection() as conn:
        yield conn


# Of function scope: it commits, and goes back to the pool, before anything is answered. What is acknowledged is
# committed, and no download or stream holds a connection.
Db = Annotated[Connection, Depends(_connection, scope="function")]
Over = Annotated[int, Header(alias="If-Match", ge=1, le=2_000_000_000, description="The version that was read.")]
