"""Ways in a shot's own document: kept, renamed, dropped, and taken in the place of the shot as it is."""

from collections.abc import Iterator, Mapping
from typing import Any, Literal

from pydantic import ValidationError

from revani.core.documents import Document, Shot
from revani.core.documents.allowed import allowed_of
from revani.core.documents.way import MOST_WAYS, KeptWay, WayChange
from revani.core.edit.differing import differences_told
from revani.core.edit.fitting import compile_fitted
from revani.core.quantities.refusal import Refusal

# What a way shares with its shot, whatever it is.
_SHARED = ("format", "id", "name", "note", "ways")

# So that a number still fits after it.
_LONGEST_NAME = 76


class WayEdit(Document):
    """What is done with a way of a shot: another name for it, its end, or its taking."""

    act: Literal["take", "drop", "rename"]
    name: str
    to: str = ""


def way_of(shot: Shot, name: str, other: Shot) -> KeptWay:
    """What is other in `other`, under a name. Raises Refusal for a name that cannot be."""
    return _named(name, tuple(_differing(_told(shot), _told(other), "")))


def _named(name: str, changes: tuple[WayChange, ...]) -> KeptWay:
    try:
        return KeptWay(name=name, changes=changes)
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal(str(first["loc"][0]), allowed_of(first), name) from None


def way_shot(shot: Shot, way: KeptWay) -> Shot:
    """The shot done that way. Raises Refusal whose path is the value that fits the shot no more."""
    document = shot.model_dump(mode="json") | {"ways": []}
    for change in way.changes:
        _put(document, change, way.name)
    try:
        found = Shot.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join(str(one) for one in first["loc"] if not str(one).startswith("function-"))
        raise Refusal(path, f"“{way.name}” fits this shot no more: {allowed_of(first)}") from None
    try:
        misfits = compile_fitted(found).misfits
    except Refusal as refusal:
        raise Refusal(refusal.path, f"“{way.name}” fits this shot no more: {refusal.allowed}") from None
    # What the shot itself cannot have is told there.
    known = {one.path for one in compile_fitted(shot).misfits} if misfits else set()
    for one in misfits:
        if one.path not in known:
            raise Refusal(one.path, f"“{way.name}” fits this shot no more: {one.allowed}")
    return found


def kept_beside(shot: Shot, other: Shot, name: str = "") -> Shot:
    """The shot, and `other` kept beside it as a way of its own; without a name under what sets it apart.

    Raises Refusal where nothing is other, or six ways are kept already.
    """
    if len(shot.ways) >= MOST_WAYS:
        raise Refusal("ways", f"A shot keeps {MOST_WAYS} ways; drop one first.")
    if not (found := way_of(shot, "other", other)).changes:
        raise Refusal("ways", "Nothing is other than in the shot itself.")
    way_shot(shot, found)
    if any(found.changes == one.changes for one in shot.ways):
        raise Refusal("ways", "This way is kept already.")
    wanted = name.strip()[:_LONGEST_NAME] or _set_apart(shot, other)
    return _with(shot, (*shot.ways, _named(_free(shot, wanted), found.changes)))


def apply_way_edit(shot: Shot, edit: WayEdit) -> Shot:
    """The shot after an edit of its ways. Raises Refusal.

    Where one is taken, the shot as it was is kept in its place, and all other ways stay what they were.
    """
    at = next((i for i, one in enumerate(shot.ways) if one.name == edit.name), None)
    if at is None:
        names = ", ".join(one.name for one in shot.ways)
        raise Refusal("ways", f"One of: {names}." if names else "No way is kept beside this shot.", edit.name)
    if edit.act == "drop":
        return _with(shot, shot.ways[:at] + shot.ways[at + 1 :])
    if edit.act == "rename":
        if any(one.name == edit.to for i, one in enumerate(shot.ways) if i != at):
            raise Refusal("name", "Each way needs a name of its own.", edit.to)
        renamed = _named(edit.to, shot.ways[at].changes)
        return _with(shot, (*shot.ways[:at], renamed, *shot.ways[at + 1 :]))
    taken = way_shot(shot, shot.ways[at])
    others = []
    for i, one in enumerate(shot.ways):
        if i == at:
            others.append(way_of(taken, _free(shot, "As it was"), shot))
            continue
        try:
            others.append(way_of(taken, one.name, way_shot(shot, one)))
        except Refusal:
            # One that fits no more is kept as it stands, to be mended or dropped.
            others.append(one)
    return _with(taken, tuple(others))


def _with(shot: Shot, ways: tuple[KeptWay, ...]) -> Shot:
    return shot.model_copy(update={"ways": ways})


def _told(shot: Shot) -> dict[str, Any]:
    document = shot.model_dump(mode="json")
    return {name: value for name, value in document.items() if name not in _SHARED}


def _differing(old: Any, new: Any, path: str) -> Iterator[WayChange]:
    """Where two documents differ; a part that has other names in it, such as another kind of start, is one value."""
    if isinstance(old, Mapping) and isinstance(new, Mapping) and old.keys() == new.keys():
        for name in new:
            yield from _differing(old[name], new[name], f"{path}.{name}" if path else name)
    elif old != new:
        yield WayChange(path=path, value=new)


def _put(document: dict[str, Any], change: WayChange, name: str) -> None:
    *above, last = change.path.split(".")
    part: Any = document
    for one in above:
        part = part.get(one) if isinstance(part, dict) else None
    if not isinstance(part, dict) or last not in part or change.path.split(".")[0] in _SHARED:
        raise Refusal(change.path, f"“{name}” changes {change.path}, which this shot has no more.")
    part[last] = change.value


def _set_apart(shot: Shot, other: Shot) -> str:
    """A name out of the first thing that is other: `ISO ceiling 100`."""
    told = differences_told(compile_fitted(shot), compile_fitted(other))
    words = told[0].partition(", not ")[0] if told else "Another way"
    return (words[:1].upper() + words[1:])[:_LONGEST_NAME]


def _free(shot: Shot, name: str) -> str:
    """The name, or with the first number after it that no other way has."""
    taken = {one.name for one in shot.ways}
    numbered = (name if n == 1 else f"{name} {n}" for n in range(1, MOST_WAYS + 2))
    return next(one for one in numbered if one not in taken)
