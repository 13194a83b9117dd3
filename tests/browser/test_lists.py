"""The list of shots: searched as one types, renamed, deleted, put away, and what a shot was before."""

from uuid import uuid4

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from revani.core.documents import Light
from revani.core.documents.timing import Timing
from tests.browser.conftest import Page, press
from tests.conftest import make_kit, make_place
from tests.desk import new_shot


def names(page: Page) -> list[str]:
    return [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, "[data-row] a")]


def test_a_list_is_searched_renamed_and_cleared_by_keyboard(page: Page, client: httpx.Client) -> None:
    kit = make_kit(body={"name": "Listing body"})
    first = new_shot(client, name="Heron at the weir", kit=kit)
    second = new_shot(client, name="Weir by night", kit=kit)
    page.open("/shots")
    page.wait(lambda d: d.find_elements(By.CSS_SELECTOR, "[data-row]"))
    page.driver.find_element(By.TAG_NAME, "body").send_keys("/")
    page.keys("listing weir")
    page.wait(lambda _: names(page) == ["Heron at the weir", "Weir by night"])
    page.keys(" night")
    page.wait(lambda _: names(page) == ["Weir by night"])
    press(page, "Rename Weir by night")
    page.over("Weir in the rain\n")
    page.wait(lambda _: client.get(f"/api/shots/{second}").json()["document"]["name"] == "Weir in the rain")
    page.click('[aria-label="Search the shots"]')
    page.over("listing")
    page.wait(lambda _: len(names(page)) == 2)
    press(page, "Delete Heron at the weir")
    press(page, "Yes, delete Heron at the weir")
    page.wait(lambda _: client.get(f"/api/shots/{first}").status_code == 404)
    press(page, "Put it away: Weir in the rain")
    page.wait(lambda _: names(page) == [])
    Select(page.find('[aria-label="Which"]')).select_by_visible_text("put away")
    page.wait(lambda _: names(page) == ["Weir in the rain"])
    press(page, "Use it again: Weir in the rain")
    page.wait(lambda _: client.get(f"/api/shots/{second}").json()["archived"] is False)


def test_what_a_shot_was_before_is_told_and_brought_back(page: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Changed")
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.write("timing.interval_s", "12 s")
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["version"] == 2)
    page.click("[data-testid=open-history]")
    page.wait(lambda d: "interval 12 s, not 30 s" in d.find_element(By.CSS_SELECTOR, "[data-testid=history]").text)
    press(page, "Bring back version 1")
    page.until("timing.interval_s", "30 s")
    page.driver.find_element(By.TAG_NAME, "body").send_keys(Keys.ESCAPE)
    page.wait(lambda _: client.get(f"/api/shots/{id}").json()["version"] == 3)


def test_gear_leads_to_the_shots_that_it_is_used_in(page: Page, client: httpx.Client) -> None:
    kit = make_kit(body={"name": "Lone body"})
    new_shot(client, name="The only one", kit=kit)
    page.open(f"/shots?used={kit.body.id}")
    page.wait(lambda _: names(page) == ["The only one"])


def test_shots_are_chosen_by_what_is_wrong_with_them_by_place_and_by_kit(page: Page, client: httpx.Client) -> None:
    kit = make_kit(body={"name": "Filtered body"})
    place = make_place(id=uuid4(), name="Filter cove")
    dark = Light(school="fixed", aperture=2.8, shutter_s=1, iso=100)
    failing = new_shot(client, name="Fails", kit=kit, place=place, light=dark, timing=Timing(fps=30, interval_s=1,
                       frame_count=300))  # fmt: skip
    new_shot(client, name="Elsewhere", kit=kit)
    page.open("/shots")
    Select(page.find('[aria-label="Place"]')).select_by_visible_text("Filter cove")
    page.wait(lambda _: names(page) == ["Fails"])
    Select(page.find('[aria-label="What is wrong"]')).select_by_visible_text("good")
    page.wait(lambda _: names(page) == [])
    Select(page.find('[aria-label="What is wrong"]')).select_by_visible_text("will fail")
    page.wait(lambda _: names(page) == ["Fails"])
    Select(page.find('[aria-label="Place"]')).select_by_visible_text("every place")
    Select(page.find('[aria-label="What is wrong"]')).select_by_visible_text("whatever is wrong")
    Select(page.find('[aria-label="Kit"]')).select_by_visible_text("Filtered body")
    page.wait(lambda _: sorted(names(page)) == ["Elsewhere", "Fails"])
    # What was found is known to the next list; it is forgotten with a change of what the shot is made of.
    (row,) = [one for one in client.get("/api/shots/rows").json() if one["id"] == failing]
    assert row["verdict"]["fails"] > 0
    saved = next(one for one in client.get("/api/gear").json() if one["id"] == str(kit.body.id))
    better = saved["document"] | {"minimum_interval_s": 0.5}
    client.put(f"/api/gear/{kit.body.id}", json=better, headers={"If-Match": str(saved["version"])}).raise_for_status()
    (row,) = [one for one in client.get("/api/shots/rows").json() if one["id"] == failing]
    assert row["verdict"] is None


def test_gear_is_copied_brought_back_and_deleted_where_no_shot_uses_it(page: Page, client: httpx.Client) -> None:
    lens = {"id": str(uuid4()), "kind": "lens", "name": "Spare eye", "note": "first"}
    client.post("/api/gear", json=lens).raise_for_status()
    later = lens | {"note": "second", "weight_kg": 0.4}
    client.put(f"/api/gear/{lens['id']}", json=later, headers={"If-Match": "1"}).raise_for_status()
    page.open("/kit")

    def gear() -> list[dict]:  # type: ignore[type-arg]
        return [one["document"] for one in client.get("/api/gear").json() if "Spare eye" in one["document"]["name"]]

    for words in ("Spare eye", "What it was before"):
        path = f'//*[self::b or self::button][normalize-space()="{words}"]'
        page.wait(lambda d, path=path: d.find_element(By.XPATH, path).click() is None)
    page.wait(lambda d: "Note: second, not first" in d.find_element(By.CSS_SELECTOR, "[data-testid=versions]").text)
    press(page, "Bring back version 1")
    page.wait(lambda _: [one["note"] for one in gear()] == ["first"])
    press(page, "Copy Spare eye")
    page.wait(lambda _: sorted(one["name"] for one in gear()) == ["Spare eye", "Spare eye, again"])
    # What nobody said of the one is not said of its copy either.
    saved = [one for one in client.get("/api/gear").json() if "Spare eye" in one["document"]["name"]]
    assert saved[0]["assumed"] == saved[1]["assumed"] != []
    press(page, "Delete Spare eye")
    press(page, "Yes, delete Spare eye")
    page.wait(lambda _: [one["name"] for one in gear()] == ["Spare eye, again"])
    used = make_kit(body={"name": "Needed body"})
    new_shot(client, name="Needs it", kit=used)
    refused = client.delete(f"/api/gear/{used.body.id}")
    assert refused.status_code == 422 and "used in Needs it" in refused.json()["detail"]
