"""The desk opened at a step of the job."""

import httpx

from revani.core.documents import Light
from tests.browser.conftest import Page
from tests.core.moving import moving_kit
from tests.desk import new_shot


def open_move(page: Page, client: httpx.Client, **change: object) -> str:
    values = {"kit": moving_kit(), "light": Light(aperture=2.8)} | change
    id = new_shot(client, **values)
    page.open(f"/shots/{id}")
    page.until("timing.frame_count", "600 frames")
    page.script("document.activeElement.blur()")
    page.find("body").send_keys("3")
    page.find("[data-testid=move-panel]")
    return id
