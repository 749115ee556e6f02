"""What is sold costs what it costs at the quay."""

import pytest
from fastapi.testclient import TestClient

from quay_next.app import app

client = TestClient(app)


@pytest.mark.parametrize("port", ["skerry", "north"])
def test_a_fare(port):
    assert client.get(f"/fares?to={port}").json()["fare"] > 0


def test_a_ticket():
    code = "W100"
    assert client.get(f"/tickets/{code}").status_code == 200
