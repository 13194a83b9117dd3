"""Code cards and the field sheet: what is signed, what is refused, what stands on paper."""

import hashlib
import hmac
import io
from base64 import urlsafe_b64decode
from datetime import date
from uuid import UUID

import pypdf
import pypdfium2
import pytest
import zxingcpp
from hypothesis import given
from hypothesis import strategies as st

from revani.core.documents import Shot
from revani.core.edit.fitting import compile_fitted
from revani.core.optics.code_card import READABLE_PX, module_needed_mm, module_px, readable_from_m
from revani.core.program.compiled import Program, compile_shot
from revani.core.quantities.refusal import Refusal
from revani.core.rigup.code_card import COMMANDS, Code, CodeCard, cards, nonce_of, read_code, settings_of, signed
from revani.core.rigup.field_sheet import FieldSheet, field_sheet
from revani.exports.code_picture import modules
from revani.exports.sheet import sheet_html, sheet_pdf, sheet_text
from revani.jobs.sample import sample_shots
from tests.conftest import make_shot

KEY, OTHER = b"k" * 32, b"o" * 32
NOW = 1_800_000_000.0


def code(**change: object) -> Code:
    given: dict[str, object] = {
        "rig": "shed", "shot": UUID(int=5), "commands": ("stop", "power down"), "expires_s": int(NOW) + 60,
        "nonce": "0123456789ab",
    }  # fmt: skip
    return Code.model_validate(given | change)


@given(
    commands=st.lists(st.sampled_from(COMMANDS), min_size=1, max_size=6), rig=st.text(min_size=1, max_size=12),
    settings=st.dictionaries(st.text(max_size=9), st.text(max_size=9), max_size=4),
    expires=st.integers(int(NOW), 2_600_000_000),
)  # fmt: skip
def test_what_is_signed_is_read_back_in_its_order(
    commands: list[str], rig: str, settings: dict[str, str], expires: int
) -> None:
    given = code(commands=tuple(commands), rig=rig, settings=settings, expires_s=expires)
    text = "http://127.0.0.1:8030/code#" + signed(given, KEY)
    assert read_code(text, KEY, {rig}, NOW) == given
    assert nonce_of(text) == given.nonce


def test_the_signature_is_half_of_hmac_sha_256() -> None:
    # RFC 2104 by the standard library, on the body as it stands in the text.
    body, _, signature = signed(code(), KEY).partition(".")
    raw, said = (urlsafe_b64decode(one + "=" * (-len(one) % 4)) for one in (body, signature))
    assert said == hmac.new(KEY, raw, hashlib.sha256).digest()[:16]


@pytest.mark.parametrize(
    ("text", "key", "rig", "now", "used", "words"),
    [
        (signed(code(), KEY), OTHER, "shed", NOW, False, "not made by this Revani"),
        (signed(code(), KEY), KEY, "barn", NOW, False, "another rig"),
        (signed(code(), KEY), KEY, "shed", NOW + 61, False, "expired"),
        (signed(code(), KEY), KEY, "shed", NOW, True, "used already"),
        ("https://example.org/", KEY, "shed", NOW, False, "no card"),
        ("code#.", KEY, "shed", NOW, False, "not made by"),
        ("", KEY, "shed", NOW, False, "no card"),
        ("ü.ü", KEY, "shed", NOW, False, "no card"),
    ],
    ids=["forged", "another rig", "expired", "used", "foreign", "empty body", "nothing", "no letters"],
)
def test_cards_that_are_not_good_are_refused(
    text: str, key: bytes, rig: str, now: float, used: bool, words: str
) -> None:
    with pytest.raises(Refusal, match=words) as refused:
        read_code(text, key, {rig}, now, used)
    assert refused.value.path == "code"


@given(st.integers(0, 200), st.integers(1, 255))
def test_a_card_that_was_changed_anywhere_is_refused(at: int, by: int) -> None:
    text = signed(code(), KEY)
    place = at % len(text)
    changed = text[:place] + chr((ord(text[place]) + by) % 128) + text[place + 1 :]
    if changed.rpartition("#")[2] != text:
        try:
            assert read_code(changed, KEY, "shed", NOW) == code()
        except Refusal:
            return
        # The last letter of base64 has bits that stand for nothing.
        assert place in (text.index(".") - 1, len(text) - 1)


def test_how_large_a_card_is_printed_for_a_distance() -> None:
    # Three pixels a module, pinhole projection: common practice, no source.
    wide = module_needed_mm(24, 6, 2)
    assert module_px(24, 6, wide, 2) == pytest.approx(READABLE_PX)
    assert readable_from_m(24, 6, wide) == pytest.approx(2)


def printed(program: Program) -> tuple[FieldSheet, tuple[CodeCard, ...]]:
    made = tuple(cards(program, "shed", KEY, "http://127.0.0.1:8030"))
    return field_sheet(program, made, tuple(modules(one.text) for one in made)), made


SAMPLE = [compile_fitted(shot) for shot in sample_shots(date(2026, 11, 24))]


def squeezed(text: str) -> str:
    return "".join(text.split())


@pytest.mark.parametrize("program", SAMPLE, ids=[one.shot.name for one in SAMPLE])
def test_the_pdf_says_what_the_shot_is(program: Program) -> None:
    sheet, _ = printed(program)
    for paper in ("a5", "a4"):
        reader = pypdf.PdfReader(io.BytesIO(sheet_pdf(sheet, paper)))  # type: ignore[arg-type]
        wide = float(reader.pages[0].mediabox.width)
        # ISO 216: A5 is 148 mm wide, A4 210 mm; a point is 1/72 in.
        assert wide == pytest.approx({"a5": 148, "a4": 210}[paper] / 25.4 * 72, abs=1)
        text = squeezed("".join(page.extract_text() for page in reader.pages))
        for part in sheet.parts:
            for said in (*part.lines, *(cell for row in part.rows for cell in row)):
                # Words are broken over lines and pages; ligatures are one letter.
                for word in said.split():
                    assert word.replace("fi", "ﬁ") in text or word in text, (part.title, word)
        assert f"{program.local(program.start_s):%H:%M:%S}" in text


def test_the_cards_on_paper_are_read_back_by_a_reader_that_did_not_write_them() -> None:
    sheet, made = printed(SAMPLE[1])
    pdf = pypdfium2.PdfDocument(sheet_pdf(sheet, "a5"))
    found = {
        one.text
        for page in pdf
        for one in zxingcpp.read_barcodes(page.render(scale=4).to_pil().convert("L"))
        if one.valid
    }
    assert found == {one.text for one in made}
    for one in made:
        assert read_code(one.text, KEY, {"shed"}, SAMPLE[1].end_s).shot == SAMPLE[1].shot.id


def test_text_and_page_say_the_same_and_need_nothing_else() -> None:
    shot = Shot.model_validate(make_shot().model_dump() | {"name": "<b>Tide</b> #set page()", "note": "$x$ </script>"})
    sheet, made = printed(compile_shot(shot))
    text, page = sheet_text(sheet), sheet_html(sheet)
    assert "RIG UP" in text and "[ ] Mount Test body" in text
    assert "<b>Tide</b>" not in page and "</script>" not in page and "http-equiv" not in page
    assert "src=" not in page and "@import" not in page and page.count("<svg") == len(made)
    # Nothing that is typed into a shot is taken for markup on paper either.
    said = "".join(one.extract_text() for one in pypdf.PdfReader(io.BytesIO(sheet_pdf(sheet))).pages)
    assert "<b>Tide</b>" in said and "#set page()" in said


def test_what_is_dialled_by_a_card_is_what_the_first_frame_wants() -> None:
    program = compile_shot(make_shot())
    found = settings_of(program)
    assert found["drive"] == "single"
    assert float(found["iso"]) == pytest.approx(float(program.exposures.iso[0]), abs=0.5)
    automatic = Shot.model_validate(make_shot().model_dump() | {"light": {"school": "automatic"}})
    assert "iso" not in settings_of(compile_shot(automatic))
