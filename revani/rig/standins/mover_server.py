"""The simulated mover's link: a line a block over TCP on loopback.

A connection whose first line is no block is closed unheard: a page in a browser can send requests to any port, but
none that begins with a block.
"""

import asyncio
from contextlib import suppress

from revani.rig.standins.mover import Refused, SimulatedMover

_LONGEST_LINE = 65_536
_FIRST_LINE_WITHIN_S = 10.0


class _Link:
    """One connection; `fence` is that of whoever set the stage over it, 0 for a person at a terminal."""

    def __init__(self, mover: SimulatedMover) -> None:
        self._mover = mover
        self._fence = 0
        self._heard = False
        # Which mover this is plugged into: it is cut when another is put in its place.
        self._number = mover.number

    async def answer(self, line: str) -> str | None:
        """The answer to a line; None where the connection is to be closed."""
        if self._number != self._mover.number:
            return None
        try:
            text = await self._carried_out(line)
        except Refused as refused:
            text = f"error: {refused}"
            if not self._heard and (line.startswith("%") or str(refused) == "not a block of words"):
                return None
        self._heard = True
        return text

    async def _carried_out(self, line: str) -> str:
        mover = self._mover
        if line.startswith("%"):
            try:
                new, fence = mover.set_stage(line[1:])
            except ValueError as error:
                raise Refused(str(error).splitlines()[0]) from error
            self._fence = fence or self._fence
            return "ok new" if new else "ok"
        if self._fence and self._fence < mover.fence:
            raise Refused("taken over by another runner")
        if mover.fault and mover.fault.kind == "slow":
            await asyncio.sleep(mover.fault.seconds)
        answer, due_s = mover.block(line)
        while due_s and (wait := mover.clock.wait_s(due_s)) > 0:
            await asyncio.sleep(min(wait, 0.05))
            # A stall or a stop in the meantime changes when, and whether, it comes to rest.
            answer, due_s = mover.block(line)
        return answer


async def serve_mover(port: int) -> None:
    """Listen for ever."""
    mover = SimulatedMover(own_number=f"SIM-M{port}")

    async def attend(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        link, patience_s = _Link(mover), _FIRST_LINE_WITHIN_S
        # A line that is too long, a link that is cut, or nothing said at all: it is over.
        with suppress(ConnectionError, ValueError, TimeoutError):
            while line := await asyncio.wait_for(reader.readline(), patience_s):
                answer = await link.answer(line.decode("utf-8", "replace").strip())
                if answer is None:
                    break
                patience_s = None  # type: ignore[assignment]
                writer.write(f"{answer}\n".encode())
                await writer.drain()
        writer.close()

    server = await asyncio.start_server(attend, "127.0.0.1", port, limit=_LONGEST_LINE)
    async with server:
        await server.serve_forever()
