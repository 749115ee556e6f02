"""A path belongs to the route that is written out the farthest, and nothing that is no path belongs to any."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.crossing.matching import RouteMatcher
from yoake.core.crossing.traffic import Call, Traffic, folded
from yoake.core.values.routes import Route


def route(path: str, method: str = "GET", *rest: str) -> Route:
    return Route(method=method, path=path, rest=frozenset(rest))


ROUTES = (
    route("/"),
    route("/boats/{id}"),
    route("/boats/new"),
    route("/boats/{id}/crew/", "POST"),
    route("/files/{path}", "GET", "path"),
    route("/files/{name}.pdf"),
    route("/{page}/{day}-{month}"),
    route("/hook", "ANY"),
)


@pytest.mark.parametrize(
    ("method", "path", "found"),
    [
        ("GET", "/", "/"),
        ("GET", "/boats/7", "/boats/{id}"),
        ("GET", "/boats/7/", "/boats/{id}"),
        ("GET", "/boats/new?x=1", "/boats/new"),
        ("HEAD", "/boats/new", "/boats/new"),
        ("POST", "/boats/new", None),
        ("POST", "/boats/7/crew", "/boats/{id}/crew/"),
        ("GET", "/files/a/b/c", "/files/{path}"),
        ("GET", "/files/a.pdf", "/files/{name}.pdf"),
        ("GET", "/files/a/b.pdf", "/files/{path}"),
        ("GET", "/x/1-2", "/{page}/{day}-{month}"),
        ("DELETE", "/hook", "/hook"),
        ("GET", "/boats/%37", "/boats/{id}"),
        ("GET", "/boats/a%2Fb", "/boats/{id}"),
        ("GET", "//boats//7", "/boats/{id}"),
        ("GET", "/boats/../boats/7", None),
        ("GET", "/boats/%2e%2e/new", None),
        ("GET", "boats/7", None),
        ("GET", "/boats/\0", None),
        ("GET", "/boats/" + "a" * 9000, None),
        ("GET", "/boats/%ff%fe", "/boats/{id}"),
    ],
)
def test_the_route_of_a_path(method: str, path: str, found: str | None) -> None:
    position = RouteMatcher(ROUTES).find(method, path)
    assert (ROUTES[position].path if position is not None else None) == found


@given(st.lists(st.sampled_from(["a", "b", "{x}", "{y}"]), min_size=1, max_size=5), st.data())
def test_a_template_takes_every_path_that_it_describes(parts: list[str], data: st.DataObject) -> None:
    value = st.text("abc123-_", min_size=1, max_size=6)
    path = "/" + "/".join(data.draw(value) if part.startswith("{") else part for part in parts)
    assert RouteMatcher((route("/" + "/".join(parts)),)).find("GET", path) == 0


def test_templates_that_overlap_are_tried_within_a_bound() -> None:
    routes = [route("/" + "/".join(("{a}" if i >> k & 1 else "x") for k in range(10)) + f"/{i}") for i in range(1024)]
    matcher = RouteMatcher(routes)
    assert matcher.find("GET", "/" + "x/" * 10 + "nowhere") is None


def test_calls_are_counted_by_route_and_day_and_the_rest_is_told() -> None:
    traffic = Traffic(routes=ROUTES)
    traffic.add(Call("2026-11-02", "GET", "/boats/7", 200), 3)
    traffic.add(Call("2026-11-09", "GET", "/boats/8", 502))
    traffic.add(Call("2026-11-09", "GET", "/none/17", 404))
    traffic.add(Call("2026-11-09", "GET", "/none/18", 200))
    assert traffic.requests(1) == 4
    assert traffic.requests(1, "2026-11-09") == 1
    assert (traffic.first_day, traffic.last_day, traffic.errors[1]) == ("2026-11-02", "2026-11-09", 1)
    (left,) = traffic.unmatched()
    assert (left.path, left.requests, left.answered) == ("/none/{id}", 2, 1)


def test_paths_that_only_scanners_ask_for_do_not_fill_the_memory() -> None:
    traffic = Traffic(routes=())
    for number in range(45_000):
        traffic.add(Call("2026-11-02", "GET", f"/{'abcdefgh'[number % 8]}x{'y' * (number // 8 % 9)}/z{number}q", 404))
    assert len(traffic.unmatched(100_000)) <= 20_000
    assert traffic.scattered + sum(each.requests for each in traffic.unmatched(100_000)) == 45_000


def test_identifiers_are_folded() -> None:
    assert folded("/a/12/9b1deb4d-3b7d-4bad-9bdd-2b0d7b3dcb6d/deadbeef01?x=1") == "/a/{id}/{id}/{id}"
    assert folded("/about/feedback") == "/about/feedback"
