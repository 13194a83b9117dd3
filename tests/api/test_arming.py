"""Arming: what stands against it is told and kept; a busy rig is not armed over, but a run may wait."""

from datetime import date, timedelta

import httpx
import psycopg
import pytest

from revani.core.documents import Light, Shot, SunStart, Waiting
from revani.core.documents.timing import Timing
from revani.core.documents.trigger import SaidSo
from tests.conftest import eventually, make_kit
from tests.desk import in_hours, new_shot, on_the_rig, order


def test_what_will_fail_is_shown_refused_and_kept_with_the_run(client: httpx.Client, quiet_rig: None) -> None:
    kit = make_kit(body={"minimum_interval_s": 90})
    id = new_shot(client, kit=kit, **in_hours(20))
    before = client.get(f"/api/shots/{id}/arming").json()
    assert before["stops"] and "too fast for Test body" in before["findings"][0]["sentence"] and before["busy"] == ""
    answer = client.post("/api/runs", json=order(id))
    assert answer.status_code == 422 and answer.json()["path"] == "anyway"
    assert "too fast for Test body" in answer.json()["detail"]
    run = client.post("/api/runs", json=order(id, anyway=True)).json()
    assert "too fast for Test body" in run["overridden"][0]
    assert run["state"] == "armed" and run["sign"].startswith("nothing is recorded yet")


def test_a_shot_that_cannot_be_had_as_it_is_runs_as_it_is_planned(client: httpx.Client, quiet_rig: None) -> None:
    id = new_shot(client, **in_hours(20) | {"light": Light(aperture=1.0, shutter_s=10)})
    assert client.post("/api/runs", json=order(id)).json()["path"] == "anyway"
    run = client.post("/api/runs", json=order(id, anyway=True)).json()
    assert "cannot be had" in run["overridden"][0]


def test_a_busy_rig_refuses_or_lets_wait_and_says_until_when(client: httpx.Client, quiet_rig: None) -> None:
    first, second, free = (
        new_shot(client, name=name, **in_hours(hours))
        for name, hours in (("First", 20), ("Second", 20.1), ("Free", 21))
    )
    armed = client.post("/api/runs", json=order(first)).json()
    assert armed["state"] == "armed"
    told = client.get(f"/api/shots/{second}/arming").json()["busy"]
    assert told.startswith("The rig is busy with “First” until about ")
    answer = client.post("/api/runs", json=order(second))
    assert answer.status_code == 422 and answer.json()["path"] == "queue" and told[:-1] in answer.json()["detail"]
    waits = client.post("/api/runs", json=order(second, queue=True)).json()
    assert waits["sign"].startswith("nothing is recorded yet; it waits for “First”, until about ")
    assert waits["start_s"] == pytest.approx(armed["end_s"] + 60)
    # Another hour is another matter.
    assert client.get(f"/api/shots/{free}/arming").json()["busy"] == ""
    assert client.post("/api/runs", json=order(free)).status_code == 201


def test_only_the_version_that_was_seen_is_armed(client: httpx.Client, quiet_rig: None) -> None:
    id = new_shot(client, **in_hours(20))
    shot = client.get(f"/api/shots/{id}").json()["document"]
    client.put(f"/api/shots/{id}", json=shot | {"note": "later"}, headers={"If-Match": "1"}).raise_for_status()
    answer = client.post("/api/runs", json=order(id, version=1))
    assert answer.status_code == 409 and answer.json()["current"]["version"] == 2
    assert client.post("/api/runs", json=order(id, version=2)).status_code == 201


def test_what_is_acknowledged_is_committed(client: httpx.Client) -> None:
    """A save that was answered is read back by another connection at once, every time."""
    id = new_shot(client)
    shot = client.get(f"/api/shots/{id}").json()["document"]
    with httpx.Client(base_url=client.base_url, timeout=30) as other:
        for version in range(1, 61):
            answer = client.put(
                f"/api/shots/{id}", json=shot | {"note": f"save {version}"}, headers={"If-Match": str(version)}
            )
            assert answer.status_code == 200
            assert other.get(f"/api/shots/{id}").json()["document"]["note"] == f"save {version}"


def test_the_speeds_that_are_offered_are_accepted_and_the_next_is_not(client: httpx.Client, quiet_rig: None) -> None:
    id = new_shot(client, **in_hours(20))
    most = client.get(f"/api/shots/{id}/arming").json()["speeds"][-1]
    assert client.post("/api/runs", json=order(id, speed=most + 1)).json()["path"] == "speed"
    assert client.post("/api/runs", json=order(id, speed=most)).status_code == 201


def test_what_was_put_away_stays_so_when_it_is_edited_and_can_be_seen(client: httpx.Client) -> None:
    id = new_shot(client, name="Put away")
    shot = Shot.model_validate(client.get(f"/api/shots/{id}").json()["document"])

    def save(version: int, **query: object) -> dict:  # type: ignore[type-arg]
        answer = client.put(
            f"/api/shots/{id}", json=shot.model_dump(mode="json"), headers={"If-Match": str(version)}, params=query
        )
        return answer.raise_for_status().json()

    save(1, archived=True)
    assert id not in [one["id"] for one in client.get("/api/shots").json()]
    assert save(2)["archived"]
    assert id in [one["id"] for one in client.get("/api/shots", params={"archived": True}).json()]
    assert not save(3, archived=False)["archived"]


def test_figures_that_nobody_gave_are_marked_as_assumed(client: httpx.Client) -> None:
    forms = {form["kind"]: {one["path"]: one for one in form["fields"]} for form in client.get("/api/forms").json()}
    kinds = ["body", "lens", "card", "mover", "filter", "support", "source", "load", "part", "place"]
    assert list(forms) == kinds
    assert forms["body"]["battery_wh"]["assumed"] == "16" and forms["place"]["temperature_c"]["assumed"] == "10 °C"
    piece = {"kind": "lens", "name": "Half known", "aperture_widest": 4}
    saved = client.post("/api/gear", json=piece).json()
    assert "closest_m" in saved["assumed"] and "aperture_widest" not in saved["assumed"]
    whole = saved["document"]
    again = client.put(f"/api/gear/{saved['id']}", json=whole, headers={"If-Match": "1"}).json()
    assert again["assumed"] == []


def test_a_run_that_nobody_is_linked_to_is_kept_by_the_clock_and_claims_nothing(
    client: httpx.Client, connection: psycopg.Connection
) -> None:
    modes = [{"name": "Interval", "intervals": ["1", "2"]}]
    kit = make_kit(body={"modes": modes, "overhead_s": "0.2", "minimum_interval_s": "0.5"})
    light = Light(school="fixed", aperture=2.8, shutter_s="1/60", iso=100)
    timing = Timing(fps=30, interval_s=1, frame_count=4)
    id = new_shot(client, fires="own timer", kit=kit, light=light, timing=timing)
    offered = client.get(f"/api/shots/{id}/arming", params={"when": "now"}).json()
    assert offered["speeds"] == [1] and offered["busy"] == ""
    assert client.post("/api/runs", json=order(id, when="now", speed=50, anyway=True)).json()["path"] == "speed"
    answer = client.post("/api/runs", json=order(id, when="now", speed=1, anyway=True))
    assert answer.status_code == 201, answer.text
    run = answer.json()
    assert run["by_clock"] and run["figures"] == [] and run["rig"] == "by the clock"
    seen = eventually(lambda: (now := client.get(f"/api/runs/{run['id']}").json())["state"] == "running" and now)
    assert seen["headline"] == "By the clock" and "should be on its card; nobody has seen one" in seen["sign"]
    done = eventually(lambda: (now := client.get(f"/api/runs/{run['id']}").json())["state"] == "finished" and now)
    assert (done["expected"], done["taken"], done["missed"]) == (4, 0, 0) and "by the clock alone" in done["gaps"]
    # No runner had it, and no frame of it is in the journal.
    row = connection.execute("SELECT runner, fence FROM run WHERE id = %s", [run["id"]]).fetchone()
    assert row and row[0] is None and client.get(f"/api/runs/{run['id']}/frames").json() == []
    own = {"fires": "own timer", "kit": kit, "light": light, "timing": timing}
    later = new_shot(client, **in_hours(20) | own)
    waiting = client.post("/api/runs", json=order(later, when="planned", speed=1, anyway=True)).json()
    assert waiting["state"] == "armed" and "begins by itself" in waiting["sign"]
    assert client.post(f"/api/runs/{waiting['id']}/stop").json()["state"] == "stopped"


def test_a_shot_is_armed_for_several_nights_each_at_its_own_start_or_for_none(
    client: httpx.Client, quiet_rig: None
) -> None:
    hours = in_hours(20) | {"start": SunStart(event="sunset", offset_s=-600)}
    id = new_shot(client, name="A week of it", **hours | {"date": date.today() + timedelta(days=1)})
    refused = client.post("/api/runs", json=order(id, nights=3, when="now"))
    assert refused.status_code == 422 and refused.json()["path"] == "nights"
    # The third night is taken already: nothing is armed of the first two.
    third = client.get(f"/api/shots/{id}").json()["document"]
    taken = new_shot(client, name="Taken", **hours | {"date": date.fromisoformat(third["date"]) + timedelta(days=2)})
    assert client.post("/api/runs", json=order(taken)).status_code == 201
    refused = client.post("/api/runs", json=order(id, nights=3))
    named = f"{date.fromisoformat(third['date']) + timedelta(days=2):%-d %b}: The rig is busy with “Taken”"
    assert refused.status_code == 422 and named in refused.json()["detail"]
    assert len(on_the_rig(client)) == 1
    assert client.post("/api/runs", json=order(id, nights=2)).status_code == 201
    starts = sorted(run["start_s"] for run in client.get("/api/runs").json() if run["name"] == "A week of it")
    # The next day's sunset is a minute or two off the same clock time.
    assert len(starts) == 2 and 60 * 1_436 < starts[1] - starts[0] < 60 * 1_444


def test_a_shot_that_waits_keeps_the_rig_for_all_that_it_may_need(client: httpx.Client, quiet_rig: None) -> None:
    waiting = Waiting(ways=((SaidSo(),),), for_s=3_600)
    id = new_shot(client, name="Holt", waits=waiting, **in_hours(20))
    armed = client.post("/api/runs", json=order(id)).json()
    assert armed["waits_until"].startswith("until I say so, to ") and not armed["may_begin"]
    assert armed["end_s"] == pytest.approx(armed["start_s"] + 3_600 + 600, abs=5)
    # An hour later it may be in the midst of it.
    other = new_shot(client, name="Other", **in_hours(21))
    assert "“Holt”" in client.get(f"/api/shots/{other}/arming").json()["busy"]
    assert client.post(f"/api/runs/{armed['id']}/begin", json={}).status_code == 422
    # What nobody is linked to cannot be begun by anything.
    alone = new_shot(
        client, waits=waiting, fires="own timer", **in_hours(20) | {"light": Light(school="fixed", shutter_s=1)}
    )
    against = client.get(f"/api/shots/{alone}/arming").json()
    assert against["stops"] and "nobody is linked" in against["findings"][0]["sentence"]
    run = client.post("/api/runs", json=order(alone, anyway=True)).json()
    assert run["by_clock"] and run["waits_until"] == "" and run["start_s"] == pytest.approx(armed["start_s"])
    client.post(f"/api/runs/{run['id']}/stop")
