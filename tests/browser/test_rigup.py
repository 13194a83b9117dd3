"""Feeding and rigging up: plugged on the desk, ticked on the phone, a preset laid over, a card opened."""

from pathlib import Path
from uuid import uuid4

import httpx
from selenium.webdriver.common.by import By
from selenium.webdriver.support.ui import Select

from revani.core.documents import Load, Source
from tests.browser.conftest import Page, text_of
from tests.conftest import make_kit
from tests.desk import cards_of, in_hours, new_shot


def kit_of(client: httpx.Client, id: str) -> dict:  # type: ignore[type-arg]
    return client.get(f"/api/shots/{id}").json()["document"]["kit"]  # type: ignore[no-any-return]


def test_a_battery_that_does_not_last_is_fed_from_the_kit(page: Page, client: httpx.Client) -> None:
    bank = Source.model_validate({"name": f"Brick {uuid4()}"[:14], "capacity_wh": 90, "sockets": "USB-C"})
    strap = Load.model_validate({"name": f"Strap {uuid4()}"[:14], "draws_w": 3, "sockets": "USB-C"})
    kit = make_kit(body={"battery_wh": 8, "sockets": "USB-C"})
    kit = kit.model_copy(update={"extras": (bank, strap)})
    id = new_shot(client, name="Feed me", kit=kit)
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.driver.find_element(By.TAG_NAME, "body").send_keys("4")
    page.wait(lambda d: "ends at" in text_of("[data-testid=findings]")(d))
    body = "[data-fed='Test body']"
    page.wait(lambda d: "until" in text_of(body)(d))
    Select(page.find("[aria-label='Feed Test body from']")).select_by_visible_text(bank.name)
    page.wait(lambda _: kit_of(client, id)["wires"] == [
        {"source": str(bank.id), "to": kit_of(client, id)["body"]["id"], "by": []}
    ])  # fmt: skip
    page.wait(lambda d: "to the end" in text_of(body)(d))
    # What nothing feeds is told of, until it is plugged in.
    page.wait(lambda d: "nothing feeds it" in text_of("[data-testid=findings]")(d))
    Select(page.find(f"[aria-label='Feed {strap.name} from']")).select_by_visible_text(bank.name)
    page.wait(lambda d: "nothing feeds it" not in text_of("[data-testid=findings]")(d))
    page.find(f"[aria-label='Unplug {bank.name} from Test body']").click()
    page.wait(lambda _: [one["to"] for one in kit_of(client, id)["wires"]] == [str(strap.id)])
    page.find("[data-testid=undo]").click()
    page.wait(lambda _: len(kit_of(client, id)["wires"]) == 2)


def test_the_list_is_ticked_on_a_phone_and_what_is_open_is_told_at_arming(phone: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Rig me", **in_hours(20))
    phone.open(f"/shots/{id}/rig-up")
    phone.wait(lambda d: "of" in text_of("[data-testid=rig-list] h2")(d))
    step = phone.find("[data-step=focus]")
    assert step.size["height"] >= 44
    phone.click("[data-step=focus]")
    phone.wait(lambda d: "on the phone" in text_of("[data-step=focus] [data-testid=ticked]")(d))
    assert "Otherwise" in phone.find("[data-step=quiet]").text
    assert "Local rules" in phone.find("[data-testid=cautions]").text
    # Nothing of the page is wider than the phone.
    assert phone.driver.execute_script("return document.documentElement.scrollWidth") <= 390
    phone.open(f"/shots/{id}")
    phone.click("[data-testid=open-arm]")
    phone.wait(lambda d: "steps before it is left alone" in text_of("[data-testid=open-steps]")(d))
    assert "frames" in phone.find("[data-testid=as-it-stands]").text


def test_a_preset_is_kept_and_says_what_it_would_change(page: Page, client: httpx.Client) -> None:
    name = f"Cold {uuid4()}"[:20]
    new = new_shot(client, name="From", light={"school": "automatic", "iso_ceiling": 1600})
    page.open(f"/shots/{new}")
    page.until("timing.frame_count", "600 frames")
    page.find("[data-testid=open-presets]").click()
    page.find("[data-testid=preset-name]").send_keys(name)
    page.find("[data-part=timing]").click()
    page.find("[data-testid=keep-preset]").click()
    page.find(f"[data-preset='{name}']")
    other = new_shot(client, name="To")
    page.open(f"/shots/{other}")
    page.until("timing.frame_count", "600 frames")
    page.find("[data-testid=open-presets]").click()
    row = page.find(f"[data-preset='{name}']")
    row.find_element(By.TAG_NAME, "button").click()
    page.wait(lambda d: "leave all of it to the body" in text_of("[data-testid=changes]")(d))
    page.find("[data-testid=lay]").click()
    page.wait(lambda _: client.get(f"/api/shots/{other}").json()["document"]["light"]["school"] == "automatic")
    client.delete(f"/api/presets/{client.get('/api/presets').json()[0]['id']}")


def test_a_card_opens_on_the_phone_and_is_done_once(phone: Page, client: httpx.Client) -> None:
    id = new_shot(client, name="Card me", **in_hours(20))
    stop = next(
        one for one in cards_of(client, id)
        if client.post("/api/codes/read", json={"text": one}).json()["commands"] == ["stop"]
    )  # fmt: skip
    phone.open("/code#" + stop.partition("#")[2])
    phone.wait(lambda d: "for Card me" in d.find_element(By.TAG_NAME, "body").text)
    phone.find("[data-testid=obey]").click()
    phone.wait(lambda d: "Nothing runs of this shot" in text_of("[data-testid=obeyed]")(d))
    phone.driver.refresh()
    phone.wait(lambda d: "used already" in d.find_element(By.TAG_NAME, "body").text)


def test_the_kit_goes_out_and_comes_in_as_a_file(page: Page, client: httpx.Client, tmp_path: Path) -> None:
    piece = Source.model_validate({"name": f"Filed {uuid4()}"[:20], "capacity_wh": 12})
    file = tmp_path / "kit.json"
    file.write_text(f'{{"format": "revani.kit/1", "gear": [{piece.model_dump_json()}]}}')
    page.open("/kit")
    page.find("[data-testid=kit-file]").send_keys(str(file))
    page.wait(lambda d: "1 brought in" in text_of("[data-testid=brought-in]")(d))
    page.wait(lambda d: piece.name in d.find_element(By.TAG_NAME, "body").text)
    file.write_text("{no")
    page.find("[data-testid=kit-file]").send_keys(str(file))
    page.wait(lambda d: "is no JSON" in d.find_element(By.TAG_NAME, "body").text)


def test_what_to_bring_is_a_list_that_prints(page: Page, client: httpx.Client) -> None:
    new_shot(client, name="Bring me", **in_hours(5))
    page.open("/packing")
    page.wait(lambda d: "Test body" in text_of("[data-packing=Bring]")(d))
    assert "first wanted" in page.find("[data-packing='Charge, in this order']").text
