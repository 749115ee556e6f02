"""The timetable answers as the desk at the quay expects."""

from fastapi.testclient import TestClient

from quay_next.app import app

client = TestClient(app)


def test_sailings_of_a_day():
    assert client.get("/sailings").status_code == 200
    assert client.get("/sailings/2026-11-02").status_code == 200


def test_the_board_of_a_port():
    assert client.get("/ports/skerry/board").status_code == 200
