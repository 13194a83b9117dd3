"""Does the shot ask for what its kit, its place and its hours have?"""

from revani.core.findings.finding import Finding, Fix, Lens, finding, usable
from revani.core.program import Program

_STEPS: dict[str, Lens] = {"light": "light", "move": "move"}


@finding
def cannot_be_had(program: Program) -> Finding | None:
    """Values that the gear or the night has not: planned with the nearest, until that is taken."""
    misfits = program.misfits
    if not misfits:
        return None
    instead = ", ".join(one.instead for one in misfits)
    return Finding(
        id="fit",
        severity="stop",
        lens=_STEPS.get(misfits[0].path.split(".")[0], "time"),
        sentence="A value of this shot cannot be had."
        if len(misfits) == 1
        else f"{len(misfits)} values of this shot cannot be had.",
        figures=" ".join(one.allowed for one in misfits) + f" Planned instead: {instead}.",
        fixes=usable(Fix(label="Take what is planned", price=instead, shot=program.shot)),
    )
