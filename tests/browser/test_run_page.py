"""A run as one arms it, watches it, stops it and looks at it afterwards."""

from datetime import datetime, timedelta
from zoneinfo import ZoneInfo

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from revani.core.documents import ClockStart, Light
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page, press
from tests.conftest import Stack, eventually, make_kit, make_place
from tests.desk import new_shot, on_the_rig
from tests.runs import arm, saved, short


def test_a_shot_that_will_fail_is_armed_only_anyway_and_its_run_is_stopped_by_two_presses(
    page: Page, client: httpx.Client
) -> None:
    # Another test's run may still have the rig.
    eventually(lambda: not on_the_rig(client))
    id = new_shot(
        client, name="Against the odds", kit=make_kit(body={"minimum_interval_s": 90}), start=ClockStart(time="21:00"),
        timing=Timing(fps=30, interval_s=60, frame_count=120), light=Light(aperture=2.8, shutter_s=10),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "120 frames")
    page.click("[data-testid=open-arm]")
    page.wait(lambda d: "too fast for Test body" in d.find_element(By.CSS_SELECTOR, "[data-testid=against]").text)
    page.find("[data-testid=speed] option[value='60']").click()
    assert not page.find("[data-testid=arm]").is_enabled()
    page.click("[data-tick=anyway]")
    page.click("[data-testid=arm]")
    page.wait(lambda d: "Armed although" in d.find_element(By.CSS_SELECTOR, "[data-testid=overridden]").text)
    page.wait(lambda d: int(d.find_element(By.CSS_SELECTOR, "[data-testid=taken]").text) >= 2)
    page.wait(lambda d: "it records" in d.find_element(By.CSS_SELECTOR, "[data-testid=sign]").text)
    page.wait(lambda d: "Against the odds · Revani" in d.title)
    # Asked once, and taken back.
    page.click("[data-testid=stop]")
    page.click("[data-testid=stop-not]")
    page.find("[data-testid=stop]")
    page.click("[data-testid=stop]")
    page.click("[data-testid=stop-sure]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=run-state]").text == "Stopped")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=sign]")
    page.click("a[href$='/review']")
    gaps = page.find("[data-testid=gaps]").text
    assert "never came to be taken" in gaps and "No gap" not in gaps
    # What came is held against what was rehearsed, one frame and all through.
    page.click("[data-tick=beside-rehearsed]")
    page.wait(lambda d: "rehearsed" in d.find_element(By.CSS_SELECTOR, "[data-testid=residual]").text)
    page.click("[data-testid=hold-against]")
    page.wait(lambda d: "looked at" in d.find_element(By.CSS_SELECTOR, "[data-testid=all-residuals]").text)
    page.click("[data-testid=assemble]")
    download = page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=download]"), 60)
    assert download.get_attribute("download").startswith("Against the odds, 2026-")
    answer = httpx.get(download.get_attribute("href") or "")
    assert answer.headers["content-disposition"].startswith("attachment") and len(answer.content) > 1_000


def test_whoever_waits_is_told_that_they_may_go(page: Page, client: httpx.Client) -> None:
    eventually(lambda: not on_the_rig(client))
    shot = saved(
        client,
        name="Off you go",
        timing=Timing(fps=30, interval_s=60, frame_count=400),
        light=Light(aperture=2.8, shutter_s=10),
    )
    run = arm(client, shot, speed=60)
    page.open(f"/runs/{run['id']}")
    told = page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=may-go] [role=status]"), 120)
    assert "frames came as planned" in told.text or "did not come" in told.text
    # Who asks to be told by sound hears what stands at once.
    page.click("[data-tick=sound]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-tick=sound]").is_selected())
    client.post(f"/api/runs/{run['id']}/stop").raise_for_status()
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=may-go]"))
    # What became of it stands on one page, and on paper.
    page.click("a[href$='/report']")
    lines = page.find("[data-testid=ten-lines]")
    assert "never came to be taken" in lines.text and "first frames" in lines.text
    assert page.find("[data-testid=to-do] input")
    paper = httpx.get(page.find("[data-testid=pdf]").get_attribute("href") or "")
    assert paper.content.startswith(b"%PDF") and "morning%20after" in paper.headers["content-disposition"]


def test_one_is_called_from_the_page_until_one_has_seen_it(page: Page, client: httpx.Client, stack: Stack) -> None:
    eventually(lambda: not on_the_rig(client))
    run = arm(client, saved(client, **short(400, name="Calls")), 60)
    page.open(f"/runs/{run['id']}")
    page.click("[data-tick=sound]")
    # Past the first five, of which it is said whether one may go.
    page.wait(lambda d: int(d.find_element(By.CSS_SELECTOR, "[data-testid=taken]").text) >= 6)
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-alarm]")
    stack.kill("camera")
    try:
        alarm = page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-alarm=come]"))
        assert alarm.text.startswith("Come: The camera does not answer") and "Come!" in page.driver.title
        # From five metres: its words are at least a twentieth of the screen's width high.
        assert alarm.size["height"] >= 64
        page.click("[data-alarm=come] button")
        page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-seen=true]"))
        assert "seen" in page.find("[data-seen=true]").text and "Come!" not in page.driver.title
    finally:
        stack.start("camera")
        stack.wait_for_camera()
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-alarm=come]"))
    client.post(f"/api/runs/{run['id']}/stop").raise_for_status()


def test_where_alarms_go_out_to_is_added_tried_and_taken_away(page: Page) -> None:
    page.open("/rigs")
    page.wait(lambda d: "battery" in d.find_element(By.CSS_SELECTOR, "[data-rig]").text)
    page.click("[name=outlet-name]")
    page.over("Shed\t")
    page.over("spoon://shed\n")
    page.wait(
        lambda d: (
            "An address that a message can be sent to"
            in d.find_element(By.CSS_SELECTOR, "[data-testid=add-outlet]").text
        )
    )
    page.click("[name=outlet-address]")
    page.over("json://127.0.0.1:9/shed")
    page.click("[data-testid=add-outlet] button[type=submit]")
    press(page, "Try: Shed")
    # Nobody listens there, and it says so.
    page.wait(lambda d: "Connection" in d.find_element(By.CSS_SELECTOR, "[data-outlet=Shed]").text)
    press(page, "Take away: Shed")
    page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-outlet=Shed]"))


def test_a_token_is_given_out_once_and_what_a_sensor_says_with_it_is_shown(page: Page, client: httpx.Client) -> None:
    page.open("/rigs")
    page.click("[data-testid=new-token]")
    token = page.find("[data-testid=token]").text
    words = [{"kind": "light", "value": -2.5}, {"kind": "code card", "word": "dusk"}]
    client.post("/api/sensors", json=words, headers={"Authorization": f"Bearer {token}"}).raise_for_status()
    page.wait(lambda d: "EV −2.5" in d.find_element(By.TAG_NAME, "main").text)
    assert "dusk" in page.find("main").text
    page.open("/rigs")
    page.find("[data-testid=new-token]")
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=token]")


def test_by_touch_on_a_phone_a_new_shot_is_typed_armed_and_stopped(phone: Page, client: httpx.Client) -> None:
    eventually(lambda: not on_the_rig(client))
    page, driver = phone, phone.driver
    id = new_shot(
        client, name="Phone", start=ClockStart(time="21:00"), light=Light(aperture=2.8, shutter_s=10),
        timing=Timing(fps=30, interval_s=60, frame_count=400),
    )  # fmt: skip
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "400 frames")
    page.tap('[data-field="timing.interval_s"]')
    page.over("50 s")
    # Left by a tap elsewhere.
    page.tap("[data-testid=rehearsal]")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["document"]["timing"]["interval_s"] == 50)
    # Nothing is wider than the phone.
    assert page.script("return document.documentElement.scrollWidth") <= 390
    page.tap("[data-testid=open-arm]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=speed] option[value='60']").click() is None)
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=arm]").is_enabled())
    page.tap("[data-testid=arm]")
    page.wait(lambda d: int(d.find_element(By.CSS_SELECTOR, "[data-testid=taken]").text) >= 1)
    page.tap("[data-testid=stop]")
    sizes = [one.size for one in driver.find_elements(By.CSS_SELECTOR, "[data-testid^=stop]")]
    assert len(sizes) == 2 and all(one["height"] >= 44 for one in sizes)
    page.tap("[data-testid=stop-sure]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=run-state]").text == "Stopped")


def test_a_day_on_which_everything_is_planned_does_not_fill_the_page(page: Page, client: httpx.Client) -> None:
    place = make_place(name="Crowded cove")
    now = datetime.now(ZoneInfo(place.time_zone)) + timedelta(hours=2)
    for number in range(14):
        new_shot(client, name=f"Crowd {number}", place=place, date=now.date(), start=ClockStart(time=f"{now:%H:%M}"))
    page.open("/")
    page.wait(
        lambda d: (
            Select(d.find_element(By.CSS_SELECTOR, "[aria-label=Place]")).select_by_visible_text(place.name) is None
        )
    )
    more = page.find("[data-testid=more-shots]")
    assert "8 more shots" in more.text
    assert page.script("return document.documentElement.scrollHeight") < 2_000


def test_a_shot_that_waits_is_typed_armed_and_begun_by_a_thumb(
    page: Page, client: httpx.Client, quiet_rig: None
) -> None:
    id = new_shot(client, name="Holt", **short(60))
    page.open(f"/shots/{id}")
    page.until("waits", "at its start")
    page.write("waits", "the sun is over 60 or I say so")
    page.until("waits", "when the sun is over 60° or I say so")
    page.write("waits.for_s", "20 h")
    page.until("waits.for_s", "20 h 00 min")
    page.write("waits.before_s", "60 s")
    page.until("waits.before_s", "1 min")
    assert page.find("[data-testid=wait]").is_displayed()
    page.wait(lambda d: "One of the ways cannot come" in d.find_element(By.TAG_NAME, "body").text)
    page.click("[data-testid=open-arm]")
    page.find("[data-testid=speed] option[value='60']").click()
    # It can be pressed when it is known what stands against it.
    page.click("[data-testid=arm]:enabled")
    page.wait(
        lambda d: "until the sun is over 60° or I say so" in d.find_element(By.CSS_SELECTOR, "[data-testid=waits]").text
    )
    assert not page.driver.find_elements(By.CSS_SELECTOR, "[data-testid=countdown]")
    page.click("[data-testid=begin]")
    page.wait(lambda d: "someone at the page said so" in d.find_element(By.CSS_SELECTOR, "[data-testid=notes]").text)
    page.wait(lambda d: int(d.find_element(By.CSS_SELECTOR, "[data-testid=taken]").text) >= 1)
    # What the camera saw in the minute before is there to be looked at.
    strip = page.find("[data-testid=before]")
    page.wait(
        lambda d: all(
            d.execute_script("return arguments[0].naturalWidth > 0", one)
            for one in strip.find_elements(By.TAG_NAME, "img")
        )
    )
    assert "before" in strip.text
    page.click("[data-testid=stop]")
    page.click("[data-testid=stop-sure]")
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, "[data-testid=run-state]").text == "Stopped")


def test_a_rig_is_added_where_it_can_be_and_put_in_order_by_a_person_at_the_page(
    page: Page, client: httpx.Client
) -> None:
    page.open("/rigs")
    page.click("[data-testid=add-rig]")
    page.click("[name=rig-name]")
    page.keys("Mill race")
    Select(page.find("[name=rig-camera]")).select_by_visible_text("at an address")
    page.click("[name=rig-camera-at]")
    page.keys("tin://can\n")
    page.wait(lambda d: "an address that begins with" in d.find_element(By.CSS_SELECTOR, "[data-testid=rig-form]").text)
    page.click("[name=rig-camera-at]")
    page.over("usb://001,009\n")
    page.wait(lambda d: d.find_elements(By.CSS_SELECTOR, "[data-rig=mill-race]"))
    try:
        # Where there are two, what is tried and drilled is that of the one that is looked at.
        press(page, "Look at: Mill race")
        page.wait(lambda d: "Fault drill at Mill race" in d.find_element(By.TAG_NAME, "body").text)
        press(page, "Change: Mill race")
        page.click("[name=rig-serial]")
        page.keys("A-77\n")
        page.wait(lambda d: not d.find_elements(By.CSS_SELECTOR, "[data-testid=rig-form]"))
        (kept,) = [one["rig"] for one in client.get("/api/rigs").json() if one["rig"]["key"] == "mill-race"]
        assert (kept["name"], kept["camera"], kept["serial"]) == ("Mill race", "usb://001,009", "A-77")
    finally:
        client.delete("/api/rigs/mill-race")
