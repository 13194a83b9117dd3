"""The programs of the runs that are looked at again and again, each compiled once."""

import asyncio
from collections.abc import Collection
from uuid import UUID

import structlog

from revani.core.documents.run import Run
from revani.core.program.compiled import Program
from revani.core.program.intervened import program_of, version_of

log = structlog.get_logger()


class Programs:
    """Programs by run, as they stand after what was changed of it."""

    def __init__(self) -> None:
        self._kept: dict[tuple[UUID, tuple[bool, int]], Program | None] = {}

    async def of(self, run: Run) -> Program | None:
        """The program of a run; None where it cannot be compiled, which is its runner's affair to say."""
        key = run.id, version_of(run)
        if key not in self._kept:
            try:
                self._kept[key] = await asyncio.to_thread(program_of, run)
            except ValueError as error:
                log.warning("not compiled", run=str(run.id), error=str(error).split("\n")[0])
                self._kept[key] = None
        return self._kept[key]

    def keep(self, there: Collection[UUID]) -> None:
        """Let those of other runs go."""
        self._kept = {key: program for key, program in self._kept.items() if key[0] in there}
