"""What a shot waits for, typed in words; how long and how often follow from the document."""

from revani.core.documents import Shot, Waiting
from revani.core.edit.fields.field import Field
from revani.core.timing.trigger_words import parse_ways, show_ways

_AT_ONCE = "at its start"


def _read(shot: Shot, text: str) -> Shot:
    if text.strip().lower() in ("", "nothing", "none", "at once", _AT_ONCE):
        return shot.model_copy(update={"waits": None})
    ways = parse_ways(text)
    waits = Waiting(ways=ways) if shot.waits is None else shot.waits.model_copy(update={"ways": ways})
    return shot.model_copy(update={"waits": waits})


WAITS_FIELD: dict[str, Field] = {
    "waits": Field(
        "Begins",
        lambda shot, _: f"when {show_ways(shot.waits.ways)}" if shot.waits else _AT_ONCE,
        _read,
        lambda shot, _, __: shot,
    )
}
