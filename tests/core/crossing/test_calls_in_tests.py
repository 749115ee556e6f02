"""Which routes tests call: by the addresses that are written out in them, whatever client they use."""

from __future__ import annotations

import pytest

from yoake.core.crossing.calls_in_tests import called_in_tests
from yoake.core.values.routes import Route

ROUTES = [
    Route(method="GET", path="/tickets/{code}"),
    Route(method="DELETE", path="/tickets/{code}"),
    Route(method="POST", path="/tickets"),
    Route(method="ANY", path="/feed.xml"),
]


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ('client.get("/tickets/W1")', {"GET /tickets/{code}"}),
        ('client.delete(f"/tickets/{code}?why=late")', {"DELETE /tickets/{code}"}),
        ("await request(app).post('/tickets').send({})", {"POST /tickets"}),
        ("axios.get(`http://localhost:80/tickets/${code}`)", {"GET /tickets/{code}"}),
        ('reply = ask("GET", "/tickets/" + code)', {"GET /tickets/{code}", "DELETE /tickets/{code}"}),
        ('URL = "/tickets/W1"', {"GET /tickets/{code}", "DELETE /tickets/{code}"}),
        ('page.goto("/feed.xml")', {"ANY /feed.xml"}),
        ('open("/etc/passwd"); re.split("/", "a/b"); "/"', set()),
        ('client.put("/tickets/W1")', set()),
    ],
)
def test_an_address_belongs_to_the_route_that_would_answer(text: str, found: set[str]) -> None:
    assert called_in_tests([text], ROUTES) == found


def test_long_lines_without_an_address_are_read_in_no_time() -> None:
    assert called_in_tests(['"' + "/" * 200_000, "x" * 400_000 + "'", '"/' + "a" * 300_000], ROUTES) == frozenset()
