"""The list of shots with a thousand in it: the first view, and a key press in its search. Makes what it lacks."""

import statistics
import tempfile
import time
from datetime import date, timedelta

import httpx
from selenium import webdriver
from selenium.webdriver.chrome.options import Options
from selenium.webdriver.chrome.service import Service

from bench.table import Row
from revani.settings import settings
from tests.browser.conftest import FLAGS, Page
from tests.conftest import make_kit, make_place, make_shot

HOME = f"http://127.0.0.1:{settings().port}"
MANY = 1_000

# Types a letter into the search and says how long it took until another shot stood first.
_PRESS = """
const [text, done] = arguments;
const box = document.querySelector('[aria-label="Search the shots"]');
const many = () => document.querySelector('[data-row] a')?.textContent;
const before = many();
const begin = performance.now();
Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(box, text);
box.dispatchEvent(new Event('input', {bubbles: true}));
const look = () => {
  if (many() !== before) requestAnimationFrame(() => done(performance.now() - begin));
  else if (performance.now() - begin > 3000) done(3000);
  else requestAnimationFrame(look);
};
requestAnimationFrame(look);
"""


def _fill(http: httpx.Client) -> None:
    there = len(http.get("/api/shots/rows").json())
    kit, place = make_kit(body={"name": "Bench body"}), make_place(name="Bench bay")
    for number in range(there, MANY):
        day = date(2027, 1, 1) + timedelta(days=number % 300)
        shot = make_shot(name=f"Bench shot {number:04d}", kit=kit, place=place, date=day)
        http.post("/api/shots", json=shot.model_dump(mode="json")).raise_for_status()


def rows() -> list[Row]:
    """First view and key presses, with the application running."""
    with httpx.Client(base_url=HOME, trust_env=False, timeout=60) as http:
        _fill(http)
    options = Options()
    with tempfile.TemporaryDirectory() as profile:
        for flag in (*FLAGS, f"--user-data-dir={profile}", "--window-size=1280,800"):
            options.add_argument(flag)
        driver = webdriver.Chrome(options, Service("/usr/bin/chromedriver"))
        try:
            page = Page(driver, HOME)
            page.open("/favicon.svg")
            begin = time.perf_counter()
            page.open("/shots")
            page.find("[data-row]")
            first = time.perf_counter() - begin
            presses = [driver.execute_async_script(_PRESS, f"shot 0{n // 7 % 10}{n % 10}") for n in range(10, 70)]
        finally:
            driver.quit()
    return [
        Row(f"list of {MANY:,} shots, first view", first, 1, "s"),
        Row("key press in its search, p95", statistics.quantiles(presses, n=20)[-1], 100, "ms",
            f"median {statistics.median(presses):.0f} ms"),
    ]  # fmt: skip
