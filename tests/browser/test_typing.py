"""Nothing typed is lost: values at a person's pace, written as the page writes them, left as people leave them."""

import json
from collections.abc import Callable
from typing import Any

import httpx
import pytest
from selenium.common.exceptions import TimeoutException
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from revani.core.documents import Body, Lens, Light
from tests.browser.conftest import Page
from tests.conftest import make_place
from tests.core.moving import KILN, axis, key, rig
from tests.desk import new_shot

ENTER, TAB = "\ue007", "\ue004"
TAP = "[data-testid=rehearsal]"


def stored(client: httpx.Client, id: str) -> dict[str, Any]:
    document: dict[str, Any] = client.get(f"/api/shots/{id}").json()["document"]
    return document


def desk(page: Page, client: httpx.Client, **change: object) -> str:
    id = new_shot(client, **change)
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    return id


# The words are those that the page itself shows for such values.
VALUES: list[tuple[str, str, str, Callable[[dict[str, Any]], bool]]] = [
    ("timing.interval_s", "25 s", ENTER, lambda shot: shot["timing"]["interval_s"] == 25),
    ("start", "18:30", TAB, lambda shot: shot["start"] == {"by": "clock", "time": "18:30"}),
    ("light.iso", "200", TAP, lambda shot: shot["light"]["iso"] == 200),
    ("light.iso_ceiling", "800", ENTER, lambda shot: shot["light"]["iso_ceiling"] == 800),
    ("light.aperture", "f/8", TAB, lambda shot: shot["light"]["aperture"] == 8),
    ("light.white_balance_k", "4,900 K", TAP, lambda shot: shot["light"]["white_balance_k"] == 4900),
    ("start", "sunset − 50 min", ENTER, lambda shot: shot["start"]["offset_s"] == -3000),
    ("light.shutter_s", "10 s", TAB, lambda shot: shot["light"]["shutter_s"] == 10),
    ("timing.playback_s", "15 s", TAP, lambda shot: shot["timing"]["playback_s"] == 15),
    ("timing.fps", "25 fps", ENTER, lambda shot: shot["timing"]["fps"] == "25"),
]


def test_ten_values_typed_as_the_page_writes_them_are_all_kept(page: Page, client: httpx.Client) -> None:
    id = desk(page, client)
    for field, text, leave, kept in VALUES:
        page.write(field, text, leave)
        page.until(field, text)
        try:
            page.wait(lambda _, kept=kept: kept(stored(client, id)), 10)
        except TimeoutException as error:
            raise AssertionError(f"{field} was not kept: {stored(client, id)}") from error
    assert all(kept(stored(client, id)) for field, _, _, kept in VALUES if field != "start")
    page.open(f"/shots/{id}")
    for field, text, _, _ in VALUES[2:]:
        page.until(field, text)


def test_a_value_that_is_left_while_the_one_before_is_still_on_its_way_is_kept_with_it(
    page: Page, client: httpx.Client
) -> None:
    id = desk(page, client)
    page.click('[data-field="timing.playback_s"]')
    page.find('[data-field="timing.playback_s"]').send_keys("\ue009a\ue000" + "10 s" + TAB + "24" + TAB + "20 s" + TAB)
    page.wait(lambda _: stored(client, id)["timing"]["interval_s"] == 20)
    timing = stored(client, id)["timing"]
    assert (timing["playback_s"], timing["fps"]) == (10, "24")
    page.click("[data-testid=undo]")
    page.until("timing.interval_s", "30 s")
    page.until("timing.fps", "24 fps")


def test_who_leaves_the_desk_right_after_typing_leaves_nothing_behind(page: Page, client: httpx.Client) -> None:
    id = desk(page, client)
    page.click('[data-field="timing.interval_s"]')
    page.over("40 s")
    page.wait(lambda d: d.find_element(By.LINK_TEXT, "Tonight").click() is None)
    page.wait(lambda _: stored(client, id)["timing"]["interval_s"] == 40)
    # Back on the desk it stands there, too.
    page.script("window.history.back()")
    page.until("timing.interval_s", "40 s")
    page.click('[data-field="timing.playback_s"]')
    page.over("12 s")
    page.until("timing.frame_count", "360 frames")
    # The tab is closed, or goes elsewhere, while the number still stands in its field.
    page.open("/kit")
    page.wait(lambda _: stored(client, id)["timing"]["playback_s"] == 12)


def test_escape_lets_go_and_what_is_the_same_is_no_edit(page: Page, client: httpx.Client) -> None:
    id = desk(page, client)
    page.write("timing.interval_s", "45 s", Keys.ESCAPE)
    page.until("timing.interval_s", "30 s")
    page.write("timing.interval_s", "30 s", ENTER)
    assert page.find("[data-testid=undo]").get_attribute("disabled")
    assert client.get(f"/api/shots/{id}").json()["version"] == 1


def test_a_key_of_the_move_is_typed_in_its_table(page: Page, client: httpx.Client) -> None:
    move = {"keys": [key(0, slide=100).model_dump(), key(9000, slide=900).model_dump()], "things": [KILN.model_dump()]}
    id = desk(page, client, kit=rig(axis("slide")), move=move)
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("3")
    page.find("[data-testid=keys]")
    for field, text, leave in (
        ("move.keys.1.slide", "750 mm", TAB), ("move.keys.1.at", "+ 2 h 00 min", ENTER),
        ("move.keys.0.hold", "5 min", "[data-testid=rehearsal]"),
    ):  # fmt: skip
        page.write(field, text, leave)
        page.until(field, text)
    page.wait(lambda _: stored(client, id)["move"]["keys"][0]["hold_s"] == 300)
    second = stored(client, id)["move"]["keys"][1]
    assert second["positions"]["slide"] == 750 and second["at"]["after_s"] == 7200


def test_a_start_is_picked_from_what_the_sky_does_that_day(page: Page, client: httpx.Client) -> None:
    id = desk(page, client)
    picker = Select(page.find('[data-offers="start"]'))
    names = [option.text for option in picker.options]
    assert any(name.startswith("moonrise, ") for name in names) and any(name.startswith("dark, ") for name in names)
    page.wait(
        lambda d: Select(d.find_element(By.CSS_SELECTOR, '[data-offers="start"]')).select_by_value("dark") is None
    )
    page.until("start", "dark")
    page.wait(lambda _: stored(client, id)["start"]["event"] == "dark")
    page.write("start", "6 pm", TAB)
    page.until("start", "18:00")


def test_the_title_renames_the_shot_where_it_stands(page: Page, client: httpx.Client) -> None:
    id = desk(page, client, name="Nameless")
    page.click("[data-testid=name]")
    page.over("Kiln at dusk")
    page.click(TAP)
    page.wait(lambda _: stored(client, id)["name"] == "Kiln at dusk")
    page.wait(lambda d: d.title == "Kiln at dusk · Revani")


def test_in_a_dialog_a_tap_on_another_control_keeps_what_was_typed_and_escape_does_not(
    page: Page, client: httpx.Client
) -> None:
    id = desk(page, client, name="Before")
    page.click("[data-testid=open-details]")
    tilt = "//label[.//span[text()='Tilted up by']]/following-sibling::input"
    page.wait(lambda d: d.find_element(By.XPATH, tilt).click() is None)
    page.over("17°")
    page.wait(lambda d: d.find_element(By.XPATH, "//label[contains(., 'It needs the dark')]/input").click() is None)
    page.wait(lambda _: stored(client, id)["needs_dark"])
    assert stored(client, id)["framing"]["tilt_deg"] == 17
    page.wait(lambda d: d.find_element(By.XPATH, tilt).click() is None)
    page.over("55")
    page.keys(Keys.ESCAPE)
    page.wait(lambda d: d.find_element(By.XPATH, tilt).get_attribute("value") == "17")
    page.keys(Keys.ESCAPE)
    page.wait(lambda d: not d.find_elements(By.XPATH, tilt))
    assert stored(client, id)["framing"]["tilt_deg"] == 17


def test_a_lens_that_excludes_the_aperture_is_taken_and_the_aperture_brought_to_it(
    page: Page, client: httpx.Client
) -> None:
    slow = Lens(name="Slow eye", aperture_widest=5.6, aperture_narrowest=5.6)
    low = Body(name="Low light", iso_min=400, iso_max=800)
    for piece in (slow, low):
        client.post("/api/gear", json=piece.model_dump(mode="json")).raise_for_status()
    id = desk(page, client)
    page.click("[data-testid=open-details]")
    for label, name in (("Lens", "Slow eye"), ("Body", "Low light")):
        choice = f"//label[.//span[text()='{label}']]/following-sibling::select"
        page.wait(lambda d, c=choice, n=name: Select(d.find_element(By.XPATH, c)).select_by_visible_text(n) is None)
    page.wait(lambda _: stored(client, id)["kit"]["body"]["name"] == "Low light")
    light = stored(client, id)["light"]
    assert (light["aperture"], light["iso"], light["iso_ceiling"]) == (5.6, 400, 800)
    page.wait(lambda d: "Brought to the nearest" in d.find_element(By.CSS_SELECTOR, "[role=dialog]").text)


def test_a_shot_from_a_file_whose_values_cannot_be_had_opens_and_is_repaired_on_the_desk(
    page: Page, client: httpx.Client
) -> None:
    id = desk(page, client, light=Light(aperture=1.4, iso=50_000))
    page.until("light.aperture", "f/1.4")
    finding = page.find('[data-finding="fit"]')
    assert "goes from f/2.8" in finding.text and "ISO 12800" in finding.text
    assert page.find('[data-field="light.aperture"]').get_attribute("aria-invalid") == "true"
    page.click('[data-finding="fit"] [data-fix]')
    page.until("light.aperture", "f/2.8")
    page.wait(lambda _: stored(client, id)["light"]["iso"] == 12_800)
    # The button that was pressed is gone; the focus is not lost with it.
    assert page.driver.switch_to.active_element.tag_name != "body"


def test_refusals_of_a_kit_stand_all_at_once_beside_their_fields(page: Page, client: httpx.Client) -> None:
    body = Body(name="Faulty", iso_min=100)
    client.post(
        "/api/gear", json={"kind": "body", "id": str(body.id), "name": "Faulty", "iso_min": 100}
    ).raise_for_status()
    page.open("/kit")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Faulty']]").click() is None)
    # What nobody typed is shown as assumed, not as a figure of this body.
    battery = page.find("input[name=battery_wh]")
    assert battery.get_attribute("value") == "" and battery.get_attribute("placeholder") == "16, assumed"
    for name, text in (("iso_min", "20000"), ("battery_wh", "none"), ("manual_shutter_max_s", "9000")):
        page.click(f"input[name={name}]")
        page.over(text)
    # Another record is opened in between: what was typed here is not lost.
    page.wait(lambda d: d.find_element(By.XPATH, "//button[text()='Add a card']").click() is None)
    page.wait(lambda d: "not saved yet" in d.find_element(By.TAG_NAME, "main").text)
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Faulty']]").click() is None)
    page.click("button[type=submit]")
    told = page.wait(lambda d: len(found := d.find_elements(By.CSS_SELECTOR, "form [role=alert]")) == 3 and found)
    assert [one.text for one in told] == [
        "At least the base ISO, 20,000.", "At most 2 h 00 min.", "Type a capacity such as 16 Wh.",
    ]  # fmt: skip
    assert page.driver.switch_to.active_element.get_attribute("name") == "iso_max"
    for name, text in (("iso_min", "100"), ("battery_wh", "14"), ("manual_shutter_max_s", "60")):
        page.click(f"input[name={name}]")
        page.over(text)
    page.click("button[type=submit]")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "button[type=submit]"))
    saved = next(one for one in client.get("/api/gear").json() if one["id"] == str(body.id))
    assert saved["document"]["battery_wh"] == 14 and "iso_max" in saved["assumed"] and "iso_min" not in saved["assumed"]


@pytest.mark.parametrize(
    ("address", "says"),
    [
        ("/shots/nonsense", "no such shot"), ("/shots/00000000-0000-4000-8000-000000000000", "no such shot"),
        ("/runs/nonsense", "no such run"), ("/runs/nonsense/review", "no such run"), ("/nowhere", "no such page"),
    ],
)  # fmt: skip
def test_a_wrong_address_says_so_and_leads_on(page: Page, address: str, says: str) -> None:
    page.open(address)
    page.wait(lambda d: says in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    page.wait(lambda d: d.title == "Not here · Revani")
    page.wait(lambda d: d.find_element(By.LINK_TEXT, "Shots").click() is None)
    page.wait(lambda d: d.title == "Shots · Revani")


def test_a_place_says_what_its_skyline_is_beyond_the_points(page: Page, client: httpx.Client) -> None:
    client.post("/api/places", json=json.loads(make_place(name="Ridge end").model_dump_json())).raise_for_status()
    page.open("/places")
    page.wait(lambda d: d.find_element(By.XPATH, "//button[.//b[text()='Ridge end']]").click() is None)
    page.wait(lambda d: "flat beyond" in d.find_element(By.TAG_NAME, "form").text)
