"""What was ticked of rig-up lists."""

from uuid import UUID

from revani.core.rigup.listed import Ticked, TickedOn
from revani.store.pool import Connection


async def ticks(conn: Connection, shot_id: UUID) -> dict[str, Ticked]:
    """All steps of a shot that are ticked."""
    cursor = await conn.execute("SELECT step, ticked_at, ticked_on FROM rig_tick WHERE shot_id = %s", [shot_id])
    return {row["step"]: Ticked(row["ticked_at"], row["ticked_on"]) for row in await cursor.fetchall()}


async def tick(conn: Connection, shot_id: UUID, step: str, on: TickedOn) -> None:
    """Tick a step; one that is ticked already keeps its time."""
    await conn.execute(
        "INSERT INTO rig_tick (shot_id, step, ticked_on) VALUES (%s, %s, %s) ON CONFLICT DO NOTHING",
        [shot_id, step, on],
    )


async def untick(conn: Connection, shot_id: UUID, step: str | None) -> None:
    """Take the tick off a step, or off all of them."""
    await conn.execute(
        "DELETE FROM rig_tick WHERE shot_id = %s AND (%s::text IS NULL OR step = %s)", [shot_id, step, step]
    )
