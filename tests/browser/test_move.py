"""The step Move of the desk, as a person works it."""

import httpx
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By

from revani.core.documents import Move
from tests.browser.conftest import Page
from tests.browser.opened import open_move
from tests.core.moving import KILN, axis, key, rig


def keys_of(client: httpx.Client, id: str) -> list[dict]:  # type: ignore[type-arg]
    document = client.get(f"/api/shots/{id}").json()["document"]
    return document["move"]["keys"] if document["move"] else []


def test_a_preset_is_taken_its_keys_are_typed_and_a_limit_is_marked_where_it_is_over(
    page: Page, client: httpx.Client
) -> None:
    id = open_move(page, client)
    page.click("[data-preset='Straight pass']")
    page.find("[data-testid=trace-slide]")
    page.type("move.keys.1.slide", "3 ft\n")
    page.until("move.keys.1.slide", "914.4 mm")
    page.type("move.keys.1.slide", "3000\n")
    page.until("move.keys.1.slide", "3,000 mm")
    finding = page.find('[data-finding="move.range"]')
    assert "Slide is asked to 3,000 mm" in finding.text
    page.wait(lambda d: "out of range" in d.find_element(By.CSS_SELECTOR, "[data-testid=move-layer]").text)
    page.click('[data-finding="move.range"] [data-fix]')
    page.until("move.keys.1.slide", "1,200 mm")
    page.wait(lambda _: keys_of(client, id)[1]["positions"]["slide"] == 1200)


def test_a_post_is_dragged_and_its_trace_follows(page: Page, client: httpx.Client) -> None:
    move = Move.model_validate({"keys": [key(0, slide=200).model_dump(), key(18_000, slide=900).model_dump()]})
    id = open_move(page, client, move=move)
    before = page.find("[data-testid=trace-slide]").get_attribute("d")
    post = page.find("[data-post='slide-1'] rect")
    page.script("arguments[0].scrollIntoView({block: 'center'})", post)
    drag = ActionChains(page.driver).click_and_hold(post).move_by_offset(-60, 8).move_by_offset(-60, 8)
    drag.release().perform()
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=trace-slide]").get_attribute("d") != before)
    page.wait(lambda _: keys_of(client, id)[1]["at"]["after_s"] < 17_000)
    dragged = keys_of(client, id)[1]
    assert dragged["positions"]["slide"] < 900
    page.click("[data-testid=undo]")
    page.wait(lambda _: keys_of(client, id)[1]["at"]["after_s"] == 18_000)


def test_keys_are_set_and_turned_by_keyboard_and_the_camera_is_dragged_on_the_table(
    page: Page, client: httpx.Client
) -> None:
    id = open_move(page, client)
    loom = page.find("[data-testid=loom]")
    loom.send_keys("\ue011a")
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=keys] tbody tr")) == 1)
    loom.send_keys("\ue010")
    camera = page.find("[data-testid=table-camera] rect")
    page.script("arguments[0].scrollIntoView({block: 'center'})", camera)
    ActionChains(page.driver).click_and_hold(camera).move_by_offset(10, 0).move_by_offset(15, 0).release().perform()
    page.wait(lambda d: len(d.find_elements(By.CSS_SELECTOR, "[data-testid=keys] tbody tr")) == 2)
    page.wait(lambda _: len(keys_of(client, id)) == 2)
    first, second = (one["positions"]["slide"] for one in keys_of(client, id))
    assert second > first
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("m")
    page.wait(lambda _: keys_of(client, id)[0]["positions"]["slide"] == second)
    page.find("body").send_keys("d")
    page.wait(lambda _: len(keys_of(client, id)) == 3)
    page.find("body").send_keys("\ue017")
    page.wait(lambda _: len(keys_of(client, id)) == 2)


def test_seven_axes_have_each_their_own_trace(page: Page, client: httpx.Client) -> None:
    names = ("slide", "lift", "pan", "tilt", "roll", "zoom", "focus")
    ends = {"slide": 900, "lift": 400, "pan": 20, "tilt": 10, "roll": 5, "zoom": 50, "focus": 3}
    starts = dict.fromkeys(names, 0) | {"zoom": 24, "focus": 1}
    keys = [key(0, **starts).model_dump(), key(18_000, **ends).model_dump()]
    move = Move.model_validate({"keys": keys, "things": [KILN.model_dump()]})
    open_move(page, client, kit=rig(*(axis(name) for name in names)), move=move)
    traces = [page.find(f"[data-testid=trace-{name}]") for name in names]
    tops = [trace.rect["y"] for trace in traces]
    assert tops == sorted(tops) and all(trace.rect["height"] > 15 for trace in traces)
    page.click("[data-testid=toggle-speed]")
    page.find("[data-testid=speed-lift]")


def test_a_bad_line_of_keys_is_refused_by_its_number(page: Page, client: httpx.Client, tmp_path) -> None:  # type: ignore[no-untyped-def]
    open_move(page, client)
    file = tmp_path / "keys.csv"
    file.write_text("after_s,slide\n0,100\n600,far\n")
    page.find("[data-testid=keys-file]").send_keys(str(file))
    page.wait(lambda d: "line 3: slide must be a number" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    file.write_text("after_s,slide\n0,100\n600,800\n")
    page.find("[data-testid=keys-file]").send_keys(str(file))
    page.until("move.keys.1.slide", "800 mm")


# Drags a post for a second and a half without ever resting, and counts how often its trace was drawn anew meanwhile.
_RESTLESS = """
const done = arguments[0];
const post = document.querySelector("[data-post='slide-1']");
const trace = document.querySelector('[data-testid=trace-slide]');
const box = post.getBoundingClientRect();
const at = {clientX: box.x + box.width / 2, clientY: box.y + 4, pointerId: 1, bubbles: true, buttons: 1};
Element.prototype.setPointerCapture = () => {};
let drawn = 0;
new MutationObserver(() => { drawn += 1; }).observe(trace, {attributes: true});
post.dispatchEvent(new PointerEvent('pointerdown', at));
let n = 0;
const timer = setInterval(() => {
  n += 1;
  post.dispatchEvent(new PointerEvent('pointermove', {...at, clientY: at.clientY + 5 + (n % 40)}));
  if (n === 90) { clearInterval(timer); done(drawn); }
}, 16);
"""


def test_a_trace_follows_a_pointer_that_never_rests(page: Page, client: httpx.Client) -> None:
    move = Move.model_validate({"keys": [key(0, slide=200).model_dump(), key(18_000, slide=900).model_dump()]})
    open_move(page, client, move=move)
    assert page.driver.execute_async_script(_RESTLESS) >= 3


def test_a_locked_target_is_dragged_in_the_picture_and_typed(page: Page, client: httpx.Client) -> None:
    keys = [key(0, slide=200).model_dump(), key(18_000, slide=900).model_dump()]
    id = open_move(page, client, move={"keys": keys, "things": [KILN.model_dump()], "aim": {"thing": "Kiln"}})
    page.until("move.aim.across", "50 %")
    finder = page.find("[data-testid=finder]")
    page.script("arguments[0].scrollIntoView({block: 'center'})", finder)
    ActionChains(page.driver).click_and_hold(finder).move_by_offset(40, 0).move_by_offset(40, 0).release().perform()
    page.wait(lambda _: page.value("move.aim.across") != "50 %")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["move"]["aim"]["across"] > 0.55)
    page.type("move.aim.across", "1/3\n")
    page.until("move.aim.across", "33.3 %")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["move"]["aim"]["across"] == 0.3333)


def test_things_are_added_typed_and_taken_away(page: Page, client: httpx.Client) -> None:
    id = open_move(page, client)
    page.click("[data-testid=move-panel] summary")

    def press(text: str) -> None:
        xpath = f"//*[@data-testid='move-panel']//button[text()='{text}']"
        page.wait(lambda d: page.script("arguments[0].click()", d.find_element(By.XPATH, xpath)) is None)

    press("Add a thing")
    page.until("move.things.0.name", "Thing 1")
    page.type("move.things.0.name", "Driftwood\n")
    page.type("move.things.0.y_mm", "1.5 m\n")
    page.until("move.things.0.y_mm", "1,500 mm")
    page.type("move.things.0.width_mm", "wide\n")
    page.wait(lambda d: "Type a length" in d.find_element(By.CSS_SELECTOR, "[role=alert]").text)
    page.find('[data-field="move.things.0.width_mm"]').send_keys("\ue00c")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["move"]["things"][0]["y_mm"] == 1500)
    press("Remove")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=things]"))


def test_focus_is_pulled_to_a_thing_from_the_plumb_line_on(page: Page, client: httpx.Client) -> None:
    keys = [key(0, slide=200, focus=1).model_dump(), key(18_000, slide=900).model_dump()]
    move = {"keys": keys, "things": [KILN.model_dump()]}
    id = open_move(page, client, kit=rig(axis("slide"), axis("focus")), move=move)
    page.click("[data-testid=move-panel] summary")
    over = page.find("[name=pull-over]")
    over.send_keys("\ue009a\ue000" + "5 min")
    pull = "//*[@data-testid='things']//button[text()='Pull focus']"
    page.wait(lambda d: page.script("arguments[0].click()", d.find_element(By.XPATH, pull)) is None)
    page.wait(lambda d: "are left there" in d.find_element(By.CSS_SELECTOR, "[data-testid=move-panel]").text)
    over.send_keys("\ue009a\ue000" + "3 s")
    page.wait(lambda d: page.script("arguments[0].click()", d.find_element(By.XPATH, pull)) is None)
    page.wait(lambda _: len(keys_of(client, id)) == 3)
    assert keys_of(client, id)[1]["at"]["after_s"] == 2_700 and keys_of(client, id)[1]["positions"]["focus"] > 2.5
