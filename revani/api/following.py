"""Runs as they are followed: one look a run, however many watch."""

import asyncio
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import suppress
from uuid import UUID

import psycopg
from psycopg_pool import PoolTimeout

from revani.store.records import NotThere

_LOOK_S = 0.3
MOST_WATCHERS = 200


class TooMany(Exception):
    """So many pages watch already that one more is not answered."""


class _Channel:
    """What is known of one run, and who waits for news of it."""

    def __init__(self) -> None:
        self.text = ""
        self.over = False
        self.watchers = 0
        self.news = asyncio.Condition()
        self.task: asyncio.Task[None] | None = None


class Following:
    """Looks at the runs that anybody watches."""

    def __init__(self, look: Callable[[UUID], Awaitable[tuple[str, bool]]]) -> None:
        """`look` gives a run's view as JSON, and whether it has ended."""
        self._look = look
        self._channels: dict[UUID, _Channel] = {}

    def make_room(self) -> None:
        """Raise TooMany where no more can watch."""
        if sum(channel.watchers for channel in self._channels.values()) >= MOST_WATCHERS:
            raise TooMany

    async def follow(self, id: UUID, first: str) -> AsyncIterator[str]:
        """The run's view, beginning with `first`, whenever it changes, until it has ended."""
        channel = self._channels.setdefault(id, _Channel())
        channel.watchers += 1
        if channel.task is None:
            channel.task = asyncio.create_task(self._watch(id, channel))
        told = first
        try:
            yield first
            while True:
                async with channel.news:
                    while not channel.over and channel.text in ("", told):
                        await channel.news.wait()
                    text, over = channel.text, channel.over
                if text and text != told:
                    told = text
                    yield text
                if over:
                    return
        finally:
            channel.watchers -= 1
            if channel.watchers == 0:
                self._channels.pop(id, None)
                channel.task.cancel()

    async def _watch(self, id: UUID, channel: _Channel) -> None:
        while not channel.over:
            # While the database is away the pages keep what they have, and show its age.
            with suppress(psycopg.Error, PoolTimeout):
                try:
                    text, over = await self._look(id)
                except NotThere:
                    text, over = channel.text, True
                async with channel.news:
                    channel.text, channel.over = text, over
                    channel.news.notify_all()
            await asyncio.sleep(_LOOK_S)
