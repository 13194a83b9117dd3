"""A connection as the application has it."""

import asyncio
from collections.abc import Awaitable, Callable
from typing import TypeVar

from revani.store.pool import Connection, open_pool
from tests.conftest import Database

T = TypeVar("T")


def within(database: Database, work: Callable[[Connection], Awaitable[T]]) -> T:
    """Run something on a connection of the pool, as the application does."""

    async def go() -> T:
        async with open_pool(database.url, most=2) as pool, pool.connection() as conn:
            return await work(conn)

    return asyncio.run(go())
