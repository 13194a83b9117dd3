"""Edits of what stands at moments of a shot: wishes on the light layer."""

from typing import Literal

from revani.core.documents import Document, LightKey, Shot
from revani.core.quantities.refusal import Refusal
from revani.core.timing.start import start_s

MOST_BIAS_STOPS = 6.0


class LightKeyEdit(Document):
    """One change of the wishes for brightness: `at_s` is an instant, seconds since 1970 UTC."""

    track: Literal["light"] = "light"
    action: Literal["add", "move", "remove"]
    index: int | None = None
    at_s: float | None = None
    bias_stops: float | None = None


def apply_light_key(shot: Shot, edit: LightKeyEdit, event_s: float) -> Shot:
    """The shot after an edit of its light keys, which stay in order and within the event.

    Raises Refusal("light.keys") for a key that is not there, and where two would stand together.
    """
    keys = list(shot.light.keys)
    if edit.action != "add":
        if edit.index is None or not 0 <= edit.index < len(keys):
            raise Refusal("light.keys", f"From 0 to {len(keys) - 1}." if keys else "There is none yet.", edit.index)
        old = keys.pop(edit.index)
    else:
        old = LightKey(after_s=event_s / 2, bias_stops=0)
    if edit.action != "remove":
        after = old.after_s if edit.at_s is None else min(max(edit.at_s - start_s(shot), 0.0), event_s)
        bias = old.bias_stops if edit.bias_stops is None else edit.bias_stops
        bias = round(min(max(bias, -MOST_BIAS_STOPS), MOST_BIAS_STOPS), 2)
        if any(abs(key.after_s - after) < 1 for key in keys):
            raise Refusal("light.keys", "Two of them cannot stand at one moment.", edit.at_s)
        keys.append(LightKey(after_s=round(after, 1), bias_stops=bias))
    keys.sort(key=lambda key: key.after_s)
    return shot.model_copy(update={"light": shot.light.model_copy(update={"keys": tuple(keys)})})
