"""The five schools compared against one compile, and against the bare ephemeris."""

from bench.compiling import _bare, _forget_sky, _serial
from bench.table import Row, median_s
from revani.core.documents.timing import Timing
from revani.core.program.compiled import compile_shot
from revani.core.rehearsal.outputs import compare_outputs
from revani.core.rehearsal.schools import compare_schools
from tests.conftest import make_shot

FRAMES = 10_000


def _shot():  # type: ignore[no-untyped-def]
    timing = Timing(fps=30, interval_s=3 + next(_serial) % 7, frame_count=FRAMES)
    shot = make_shot(name=f"bench {next(_serial)}", timing=timing)
    return shot.model_copy(update={"light": shot.light.model_copy(update={"shutter_s": shot.kit.body.shutter_min_s})})


def rows() -> list[Row]:
    """Compile with all schools compared, against the compile alone and the bare ephemeris."""
    bare = median_s(_bare)
    compile_shot(_shot())
    alone = median_s(lambda: compile_shot(_shot()), prepare=_forget_sky, runs=9)
    compared = median_s(lambda: compare_schools(compile_shot(_shot())), prepare=_forget_sky, runs=9)
    program = compile_shot(_shot())
    outputs = median_s(lambda: compare_outputs(program), runs=9)
    detail = f"{compared * 1000:.1f} ms / {alone * 1000:.1f} ms"
    return [
        Row("compile + five schools, 10,000 frames, new sky / compile alone", compared / alone, 3, detail=detail),
        Row("outputs compared / that", outputs / compared, 0.3, detail=f"{outputs * 1000:.2f} ms"),
        Row("the same / bare sun and moon of 256 instants", compared / bare, 4, detail=f"bare {bare * 1000:.1f} ms"),
    ]
