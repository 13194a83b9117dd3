"""The list of shots: searched as one types, renamed, deleted, put away, and what a shot was before."""

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.browser.conftest import Page
from tests.conftest import make_kit
from tests.desk import new_shot


def names(page: Page) -> list[str]:
    return [one.text for one in page.driver.find_elements(By.CSS_SELECTOR, "[data-row] a")]


def press(page: Page, label: str) -> None:
    page.wait(lambda d: d.find_element(By.CSS_SELECTOR, f'[aria-label="{label}"]').click() is None)


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
