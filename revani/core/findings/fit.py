"""Does the shot ask for what its kit, its place and its hours have?"""

from revani.core.documents import Step
from revani.core.findings.finding import Finding, Fix, finding, usable
from revani.core.program.compiled import Program

_STEPS: dict[str, Step] = {"light": "light", "move": "move"}


@finding("time", "fit", source="the figures of the kit, and the place's sky")
def cannot_be_had(program: Program) -> Finding | None:
    """Values that the gear or the night has not: planned with the nearest, until that is taken."""
    misfits = program.misfits
    if not misfits:
        return None
    instead = ", ".join(one.instead for one in misfits)
    return Finding(
        severity="stop",
        step=_STEPS.get(misfits[0].path.split(".")[0], "time"),
        turns="Quiet once every value is one that kit, place and night have.",
        sentence="A value of this shot cannot be had."
        if len(misfits) == 1
        else f"{len(misfits)} values of this shot cannot be had.",
        figures=" ".join(one.allowed for one in misfits) + f" Planned instead: {instead}.",
        offer=lambda: usable(Fix(id="as-planned", label="Take what is planned", price=instead, shot=program.shot)),
    )
