"""What sets two shots apart, in words."""

from revani.core.edit.fields import fields_of
from revani.core.program.compiled import Program
from revani.core.quantities.units import count

# Follow from others that are told.
_UNTOLD = ("slowed", "recording", "pace.night_s")


def changes(before: Program, after: Program) -> tuple[str, ...]:
    """What differs between two plans, in words: `interval 24 s, not 30 s`."""
    told = []
    known = fields_of(before.shot)
    for name, field in fields_of(after.shot).items():
        if name not in known or (name in _UNTOLD and not after.shot.live):
            continue
        old, new = field.show(before.shot, before.timing), field.show(after.shot, after.timing)
        if old != new:
            told.append(f"{_lower(field.label)} {new}, not {old}")
    old_keys, new_keys = ((one.shot.move.keys if one.shot.move else ()) for one in (before, after))
    moved = sum(a != b for a, b in zip(old_keys, new_keys, strict=False)) + abs(len(old_keys) - len(new_keys))
    if moved:
        told.append(f"{count(moved, 'key')} of the move changed")
    paths = [one.carried.track.points_mm.tolist() if one.carried else None for one in (before, after)]
    if None not in paths and paths[0] != paths[1]:
        told.append("another path")
    return tuple(told)


def differences_told(before: Program, after: Program) -> tuple[str, ...]:
    """All that differs between two shots, in words: plan, name, note, gear and place."""
    old, new = before.shot, after.shot
    told = list(changes(before, after))
    for name in ("name", "note"):
        if getattr(old, name) != getattr(new, name):
            told.append(f"{name}: {getattr(new, name) or 'none'}")
    pieces = {one.id: one.name for one in old.kit.pieces}, {one.id: one.name for one in new.kit.pieces}
    told += [f"with {name}" for id, name in pieces[1].items() if id not in pieces[0]]
    told += [f"without {name}" for id, name in pieces[0].items() if id not in pieces[1]]
    if old.kit.wires != new.kit.wires:
        told.append("fed otherwise")
    if old.place.id != new.place.id:
        told.append(f"at {new.place.name}, not {old.place.name}")
    if [one.name for one in old.ways] != [one.name for one in new.ways]:
        told.append(f"beside it: {', '.join(one.name for one in new.ways) or 'no other way'}")
    if [one.name for one in old.outputs] != [one.name for one in new.outputs]:
        told.append(f"outputs: {', '.join(one.name for one in new.outputs) or 'none'}")
    return tuple(told)


def _lower(label: str) -> str:
    """A label within a sentence: `film length`, `ISO ceiling`."""
    return label if label[:2].isupper() else label[0].lower() + label[1:]
