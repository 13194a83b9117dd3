"""What rules a frame: the person, the body, the interval or the light; and the value that would change it."""

from revani.core.light.dials import show_shutter
from revani.core.program.compiled import Program

# As near as this to a limit is at it.
_AT = 1.005


def ruling(program: Program, i: int) -> tuple[str, str]:
    """Why the frame (counted from 0) has the shutter that it has, in a sentence, and the field that would change it."""
    shot, light = program.shot, program.shot.light
    shutter, room = float(program.exposures.shutter_s[i]), float(program.shutter_room_s[i])
    said = show_shutter(shutter)
    if float(program.exposures.wanted_shutter_s[i]) > room * _AT and shutter >= room / _AT:
        return f"The interval leaves the shutter no more than {said}.", "timing.interval_s"
    if light.school == "fixed":
        return f"You hold the shutter at {said}.", "light.shutter_s"
    longest = shot.body.automatic_shutter_max_s if light.automatic else shot.body.manual_shutter_max_s
    if shutter >= float(longest) / _AT:
        return (
            f"{shot.body.name} opens its shutter no longer than {said}.",
            "mode" if shot.kit.body.modes else "light.aperture",
        )
    if light.automatic:
        iso = float(program.exposures.iso[i])
        if iso >= light.iso_ceiling / _AT:
            return f"The body raises ISO to your ceiling, {light.iso_ceiling:,}, and takes {said}.", "light.iso_ceiling"
        return f"The body meters the light and takes {said}.", "light.compensation_stops"
    if shutter >= float(light.shutter_s) / _AT:
        return f"You let the shutter open up to {said}; from there on ISO goes up.", "light.shutter_s"
    return f"The light asks for {said}.", "light.aperture"
