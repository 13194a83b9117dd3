"""The simulated mover's link: a line a block over TCP on loopback."""

import asyncio
from contextlib import suppress

from revani.rig.standins.mover import Refused, SimulatedMover

_LONGEST_LINE = 65_536


async def serve_mover(port: int) -> None:
    """Listen for ever."""
    mover = SimulatedMover()

    async def attend(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        with suppress(ConnectionError, asyncio.IncompleteReadError):
            while line := await reader.readline():
                writer.write((await _answer(mover, line.decode("utf-8", "replace").strip()) + "\n").encode())
                await writer.drain()
        writer.close()

    server = await asyncio.start_server(attend, "127.0.0.1", port, limit=_LONGEST_LINE)
    async with server:
        await server.serve_forever()


async def _answer(mover: SimulatedMover, line: str) -> str:
    if line.startswith("%"):
        try:
            mover.set_stage(line[1:])
        except ValueError as error:
            return f"error: {str(error).splitlines()[0]}"
        return "ok"
    if mover.fault and mover.fault.kind == "slow":
        await asyncio.sleep(mover.fault.seconds)
    try:
        answer, due_s = mover.block(line)
        while due_s and (wait := mover.clock.wait_s(due_s)) > 0:
            await asyncio.sleep(min(wait, 0.05))
            # A stall or a stop in the meantime changes when, and whether, it comes to rest.
            answer, due_s = mover.block(line)
    except Refused as refused:
        return f"error: {refused}"
    return answer
