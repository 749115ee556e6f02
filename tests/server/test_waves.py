"""The portfolio in time, through HTTP: waves and forecast of real scans, teams, days off, moves by hand, what-ifs, vendors."""

from __future__ import annotations

from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from starlette.testclient import TestClient

from tests.conftest import write
from tests.server.conftest import settled, take

API = "/api/v1"


def today() -> date:
    """The day as the server has it, also where these tests run past midnight."""
    return datetime.now(UTC).date()


def day(ahead: int) -> str:
    return (today() + timedelta(days=ahead)).isoformat()


@pytest.fixture
def portfolio(client: TestClient, tmp_path: Path) -> TestClient:
    """A library on Python 3.9 and an application on it that requires the library, of two teams."""
    library = write(
        tmp_path / "tide-common",
        {
            ".python-version": "3.9\n",
            "pyproject.toml": '[project]\nname = "tide-common"\nversion = "1"\n',
            "tide/a.py": "import imp\n",
        },
    )
    desk = write(
        tmp_path / "desk",
        {
            ".python-version": "3.9\n",
            "requirements.txt": "tide-common==1\n",
            "desk/a.py": "import imp\nimport asyncore\n",
        },
    )
    for folder, team in ((library, "Platform"), (desk, "Sales")):
        slug = take(client, folder)
        assert client.patch(f"{API}/applications", json={"applications": [slug], "team": team}).status_code == 200
    return client


def waves(client: TestClient) -> dict[str, Any]:
    answer = client.get(f"{API}/waves")
    assert answer.status_code == 200, answer.text
    return dict(answer.json())


def bars(client: TestClient) -> dict[str, dict[str, Any]]:
    return {f"{b['name']} {b['number']}": b for t in waves(client)["teams"] for b in t["stages"]}


def test_waves_put_stages_of_two_teams_into_weeks_and_the_library_first(portfolio: TestClient) -> None:
    view = waves(portfolio)
    assert {t["name"] for t in view["teams"]} == {"Platform", "Sales"}
    held = bars(portfolio)
    assert held["desk 1"]["starts"] >= held["tide-common 1"]["live"]
    assert all(u <= c + 0.01 for t in view["teams"] for u, c in zip(t["used"], t["capacity"], strict=True))
    assert [(b["library"], b["users"]) for b in view["bridges"]] == [("tide-common", ["desk"])]
    story = portfolio.get(f"{API}/waves/story", params={"stage": held["desk 1"]["key"]}).json()
    assert "once tide-common 1" in story["why"]
    first = portfolio.get(f"{API}/waves/story", params={"stage": held["tide-common 0"]["key"]}).json()
    assert first["why"].startswith("Nothing holds it")
    assert first["earlier"] == []
    links = portfolio.get(f"{API}/portfolio/links").json()
    assert links["uses"] == [["tide-common", "desk"]]
    assert "tide-common" in links["mermaid"]


def test_people_absences_holidays_and_freezes_move_the_plan_and_are_told(portfolio: TestClient) -> None:
    before = bars(portfolio)["desk 1"]
    people = {"people": [{"name": "Ada", "days": 5}, {"name": "Ben", "days": 2.5, "since": day(40)}], "features": 0.5}
    made = portfolio.put(f"{API}/teams", params={"name": "Sales"}, json=people | {"version": 0}).json()
    assert [p["name"] for p in made["people"]] == ["Ada", "Ben"]
    assert portfolio.put(f"{API}/teams", params={"name": "Sales"}, json=people | {"version": 0}).status_code == 409
    sales = next(t for t in waves(portfolio)["teams"] if t["name"] == "Sales")
    assert not sales["assumed"]
    away = {"kind": "absence", "team": "Sales", "person": "Ada", "first": day(0), "last": day(60), "title": "leave"}
    number = portfolio.post(f"{API}/days-off", json=away).json()["id"]
    assert bars(portfolio)["desk 1"]["starts"] >= day(40)
    assert portfolio.delete(f"{API}/days-off/{number}").json()["title"] == "leave"
    freeze = {"kind": "freeze", "first": day(0), "last": day(100), "title": "season"}
    assert portfolio.post(f"{API}/days-off", json=freeze).status_code == 201
    assert bars(portfolio)["desk 1"]["live"] >= day(100)
    told = [e["what"] for e in portfolio.get(f"{API}/events").json()["rows"]]
    assert {"people", "absence", "freeze"} <= set(told)
    assert before["key"] == bars(portfolio)["desk 1"]["key"]


@pytest.mark.parametrize(
    "body",
    [
        {"people": [{"name": "Ada", "days": 9}]},
        {"people": [{"name": "Ada", "days": 1}, {"name": "ada", "days": 1}]},
        {"people": [{"name": "Ada", "days": 1, "since": day(9), "until": day(1)}]},
        {"people": [], "features": 1},
    ],
)
def test_teams_that_cannot_be_are_refused_with_words(client: TestClient, body: dict[str, Any]) -> None:
    answer = client.put(f"{API}/teams", params={"name": "Sales"}, json=body)
    assert answer.status_code == 422
    assert answer.json()["faults"]


def test_a_calendar_with_repeats_and_time_zones_is_read_and_read_again(client: TestClient) -> None:
    start = today() + timedelta(days=7)
    text = (
        "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:-//x//EN\r\n"
        f"BEGIN:VEVENT\r\nUID:1\r\nDTSTART;VALUE=DATE:{start:%Y%m%d}\r\nDTEND;VALUE=DATE:{start + timedelta(days=2):%Y%m%d}\r\n"
        "SUMMARY:Harbour days\r\nRRULE:FREQ=YEARLY;COUNT=3\r\nEND:VEVENT\r\n"
        f"BEGIN:VEVENT\r\nUID:2\r\nDTSTART;TZID=Pacific/Auckland:{start:%Y%m%d}T090000\r\n"
        f"DTEND;TZID=Pacific/Auckland:{start:%Y%m%d}T100000\r\nSUMMARY:Stand-up\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n"
    )
    for replaced in (0, 3):
        answer = client.post(f"{API}/days-off/calendar", json={"name": "harbour.ics", "text": text}).json()
        assert (answer["added"], answer["replaced"]) == (3, replaced)
    days = client.get(f"{API}/days-off").json()
    assert (days[0]["first"], days[0]["last"], days[0]["title"]) == (day(7), day(8), "Harbour days")
    for broken in ("no calendar", "BEGIN:VCALENDAR\r\nEND:VCALENDAR\r\n"):
        assert client.post(f"{API}/days-off/calendar", json={"name": "x", "text": broken}).status_code == 422
    assert len(client.get(f"{API}/days-off").json()) == 3


def test_a_stage_put_on_a_day_stays_and_what_slips_is_seen_first(portfolio: TestClient) -> None:
    key = bars(portfolio)["tide-common 1"]["key"]
    monday = (today() + timedelta(days=70 - today().weekday())).isoformat()
    look = portfolio.post(f"{API}/waves/look", json={"stage": key, "begins": monday}).json()
    assert look["bar"]["starts"] == monday
    assert [s["name"] for s in look["slips"]] == ["desk"]
    assert bars(portfolio)["tide-common 1"]["starts"] != monday
    body = {"stage": key, "begins": monday, "why": "after the audit"}
    assert portfolio.put(f"{API}/waves/fixed", json=body).status_code == 204
    assert bars(portfolio)["tide-common 1"]["starts"] == monday
    assert portfolio.put(f"{API}/waves/fixed", json={"stage": key, "begins": None}).status_code == 204
    assert bars(portfolio)["tide-common 1"]["starts"] != monday
    assert portfolio.put(f"{API}/waves/fixed", json={"stage": key, "begins": day(-3)}).status_code == 422
    assert portfolio.put(f"{API}/waves/fixed", json={"stage": "desk|stage:none", "begins": monday}).status_code == 404


def test_a_what_if_stands_beside_the_plan_is_kept_and_thrown_away(portfolio: TestClient) -> None:
    changes = {
        "capacity": [{"team": "Sales", "person": "Cleo", "days": 5}],
        "bought": [{"name": "Ferry app", "team": "Sales", "days": 12, "end": day(90)}],
        "freezes": [{"first": day(5), "last": day(20)}],
        "dates": [{"coordinate": "python", "line": "3.9", "end": day(300)}],
    }
    found = portfolio.post(f"{API}/waves/what-if", json=changes).json()
    assert found["what_if"]["stages"] == found["present"]["stages"] + 1
    assert any("Cleo" in told for told in found["told"])
    assert any(e["before"] is None and e["after"] is not None for e in found["ends"])
    dropped = portfolio.post(f"{API}/waves/what-if", json={"drop": ["desk"]}).json()
    assert dropped["what_if"]["stages"] < dropped["present"]["stages"]
    kept = portfolio.post(f"{API}/what-ifs", json={"name": "Cleo comes", "changes": changes}).json()
    assert portfolio.get(f"{API}/what-ifs/{kept['id']}").json()["changes"]["capacity"][0]["person"] == "Cleo"
    assert portfolio.delete(f"{API}/what-ifs/{kept['id']}").status_code == 204
    assert portfolio.get(f"{API}/what-ifs").json() == []
    for wrong in (
        {"drop": ["nobody"]},
        {"capacity": [{"team": "None", "days": 1}]},
        {"strategy": [{"application": "desk", "choice": "x"}]},
    ):
        answer = portfolio.post(f"{API}/waves/what-if", json=wrong)
        assert answer.status_code == 422, wrong
    assert portfolio.post(f"{API}/what-ifs", json={"name": "none", "changes": {}}).status_code == 422


def test_retiring_an_application_takes_its_stages_out(portfolio: TestClient) -> None:
    body = {"strategy": [{"application": "desk", "choice": "retire"}]}
    found = portfolio.post(f"{API}/waves/what-if", json=body).json()
    assert found["what_if"]["stages"] < found["present"]["stages"]


def test_a_vendor_is_asked_promises_and_blocks_ours_until_their_release_is_here(portfolio: TestClient) -> None:
    body = {"vendor": "Tidewater", "asked": day(-20), "version": 0}
    asked = portfolio.put(f"{API}/applications/tide-common/outside", json=body).json()
    assert asked["waiting"] == 20
    view = waves(portfolio)
    assert any("Tidewater promised no day" in note for note in view["notes"])
    assert bars(portfolio)["desk 1"]["starts"] is None
    promised = body | {"answer": "in spring", "promised": day(60), "chase": day(-1), "version": 1}
    assert portfolio.put(f"{API}/applications/tide-common/outside", json=promised).json()["chase_now"]
    assert bars(portfolio)["desk 1"]["starts"] >= day(60)
    arrived = promised | {"arrived": day(0), "version": 2}
    assert portfolio.put(f"{API}/applications/tide-common/outside", json=arrived).status_code == 200
    assert bars(portfolio)["desk 1"]["starts"] < day(60)
    assert portfolio.delete(f"{API}/applications/tide-common/outside").status_code == 204


def test_an_application_of_two_teams_has_its_stages_in_both(portfolio: TestClient) -> None:
    shares = {"teams": {"Sales": 0.75, "Platform": 0.25}}
    assert portfolio.put(f"{API}/applications/desk/teams", json=shares).status_code == 200
    teams = {t["name"]: [b["days"] for b in t["stages"] if b["name"] == "desk"] for t in waves(portfolio)["teams"]}
    assert teams["Sales"][-1] == pytest.approx(3 * teams["Platform"][-1], rel=0.05)
    assert portfolio.put(f"{API}/applications/desk/teams", json={"teams": {"Sales": 0.5}}).status_code == 422
    weight = portfolio.put(f"{API}/applications/desk/weight", json={"features": 0.5, "late": 3}).json()
    assert weight == {"features": 0.5, "late": 3.0}
    assert portfolio.get(f"{API}/applications/desk/in-time").json()["teams"] == shares["teams"]


def test_minutes_said_at_steps_are_learnt_from(portfolio: TestClient, tmp_path: Path) -> None:
    assert portfolio.get(f"{API}/forecast").json()["steps_learnt"] == 0
    steps = portfolio.get(f"{API}/work?slug=desk&state=all").json()["rows"]
    step = next(s for s in steps if not s["finding_key"].startswith("stage:") and "asyncore" in s["title"])
    changed = portfolio.patch(f"{API}/steps/{step['id']}", json={"spent": step["minutes"] * 6}).json()
    assert changed["spent"] == pytest.approx(step["minutes"] * 6)
    write(tmp_path / "desk", {"desk/a.py": "import imp\n"})
    portfolio.post(f"{API}/scans", json={"applications": ["desk"]})
    settled(portfolio)
    found = portfolio.get(f"{API}/forecast").json()
    assert found["steps_learnt"] == 1
    assert found["factor"] > 1
    assert {(row["group"], row["name"]) for row in found["lessons"]} == {
        ("team", "Sales"),
        ("kind", "removed"),
        ("ecosystem", "python"),
    }


def test_the_forecast_says_dates_and_chances_by_application(portfolio: TestClient) -> None:
    found = portfolio.get(f"{API}/forecast").json()
    assert {a["name"] for a in found["applications"]} == {"desk", "tide-common"}
    for row in found["applications"]:
        assert row["p50"] <= row["p80"] <= row["p95"]
        assert all(0 <= miss["chance"] <= 1 for miss in row["misses"])
    cone = found["cone"]
    assert cone[0]["middle"] >= cone[-1]["middle"]
    assert found["runs"] == 5000


def test_an_empty_portfolio_has_a_sentence_and_a_calendar(client: TestClient) -> None:
    assert waves(client)["heading"] == "There is no path to put into weeks yet."
    assert client.get(f"{API}/forecast").json()["applications"] == []
    answer = client.get(f"{API}/waves.ics")
    assert answer.text.startswith("BEGIN:VCALENDAR")
    assert client.get(f"{API}/portfolio/links").json()["uses"] == []


def test_the_calendar_has_the_stages(portfolio: TestClient) -> None:
    text = portfolio.get(f"{API}/waves.ics").text
    assert "SUMMARY:desk 1" in text.replace("\r\n ", "")


def test_the_horizon_has_the_dates_of_the_plan_where_people_are_known(portfolio: TestClient) -> None:
    def row() -> dict[str, Any]:
        rows = portfolio.get(f"{API}/portfolio").json()["rows"]
        return dict(next(r for r in rows if r["slug"] == "desk"))

    before = row()
    people = {"people": [{"name": "Ada", "days": 0.25}]}
    assert portfolio.put(f"{API}/teams", params={"name": "Sales"}, json=people).status_code == 200
    after, bar = row(), bars(portfolio)["desk 1"]
    assert after["stages"][0]["arrives50"] == bar["p50"] > before["stages"][0]["arrives50"]
    assert after["arrival80"] == bar["p80"]
    assert portfolio.get(f"{API}/applications/desk/evidence").json()["application"]["arrival80"] == bar["p80"]
