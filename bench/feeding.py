"""What a night of many shots costs: findings and packing of forty against one, the field sheet, wired against plain."""

from uuid import UUID

from bench.compiling import _serial
from bench.table import Row, median_s
from revani.core.documents import Kit, Load, Source, Wire
from revani.core.documents.timing import Timing
from revani.core.findings import judge
from revani.core.program.compiled import Program, compile_shot
from revani.core.rigup.field_sheet import field_sheet
from revani.core.rigup.packing import packing
from revani.exports.sheet import sheet_pdf
from tests.conftest import make_kit, make_shot

FRAMES, SHOTS = 10_000, 40


def _wired() -> Kit:
    kit = make_kit()
    bank = Source.model_validate({"id": UUID(int=1), "name": "Bank", "capacity_wh": 200})
    strap = Load.model_validate({"id": UUID(int=2), "name": "Strap", "draws_w": 4})
    wires = (Wire(source=bank.id, to=kit.body.id), Wire(source=bank.id, to=strap.id))
    return kit.model_copy(update={"extras": (bank, strap), "wires": wires})


def _program(kit: Kit) -> Program:
    timing = Timing(fps=30, interval_s=5, frame_count=FRAMES)
    return compile_shot(make_shot(name=f"bench {next(_serial)}", timing=timing, kit=kit))


def rows() -> list[Row]:
    """The ratios of feeding and packing."""
    kit = make_kit()
    programs = [_program(kit) for _ in range(SHOTS)]
    one = median_s(lambda: judge(programs[0]), runs=9)
    forty = median_s(lambda: ([judge(program) for program in programs], packing(programs)), runs=3)
    plain = median_s(lambda: judge(_program(kit)), runs=7)
    wired_kit = _wired()
    wired = median_s(lambda: judge(_program(wired_kit)), runs=7)
    sheet = median_s(lambda: sheet_pdf(field_sheet(programs[0])), runs=5)
    return [
        Row(f"findings and packing of {SHOTS} shots of {FRAMES:,} frames, compiled / findings of one", forty / one, 50,
            detail=f"{forty * 1000:.0f} ms / {one * 1000:.1f} ms"),
        Row("compile and findings with a bank, a heater and wires / without", wired / plain, 3,
            detail=f"{wired * 1000:.0f} ms / {plain * 1000:.0f} ms"),
        Row("field sheet as PDF, seconds, at most 2", sheet, 2, detail=f"{sheet:.2f} s"),
    ]  # fmt: skip
