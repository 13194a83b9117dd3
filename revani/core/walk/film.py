"""Walking hyperlapses: how long the film of a walk becomes."""

from fractions import Fraction


def sped_up_playback_s(walk_s: Fraction, speed_up: Fraction, head_s: Fraction, tail_s: Fraction) -> Fraction:
    """Film of a walk sped up between a head and a tail at normal speed."""
    return head_s + tail_s + (walk_s - head_s - tail_s) / speed_up
