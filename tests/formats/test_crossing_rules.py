"""Rules are changed by the screen as a person would change them: comments and order stay, and nothing foreign gets in."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.crossing.rules import Standing
from yoake.core.values.errors import BadInput
from yoake.core.values.routes import Route
from yoake.formats.crossing_rules import Entry, new_rules, read_rules, with_entries, with_sides
from yoake.formats.har import read_har
from yoake.formats.nginx import nginx_configuration

TEXT = """# our rules
yoake: crossing/1
application: quay
sides: {old: "http://127.0.0.1:1", new: "http://127.0.0.1:2"}
routes:
  # the first to go
  - route: GET /a
    stands: shared
    share: 25   # since Monday
  - {route: "POST /b", stands: old, safe: true}
"""


def entry(name: str, standing: Standing, share: float = 0.0, safe: bool | None = None) -> Entry:
    method, path = name.split(" ")
    return Entry(
        route=Route(method=method, path=path, rest=frozenset(("rest",) if "{rest}" in path else ())),
        standing=standing,
        share=share,
        safe=safe,
    )


def test_comments_and_order_stay_and_new_routes_come_last() -> None:
    text = with_entries(
        TEXT,
        [entry("GET /c/{rest}", Standing.MIRRORED), entry("GET /a", Standing.NEW), entry("POST /b", Standing.MIRRORED)],
    )
    assert "# our rules" in text
    assert "# the first to go" in text
    read = read_rules(text)
    assert [(r.route.name, r.standing, r.share, r.safe) for r in read.routes] == [
        ("GET /a", Standing.NEW, 0.0, False),
        ("POST /b", Standing.MIRRORED, 0.0, True),
        ("GET /c/{rest}", Standing.MIRRORED, 0.0, False),
    ]
    assert read.routes[2].route.rest == {"rest"}


@given(
    st.lists(
        st.tuples(
            st.sampled_from(["GET /a", "POST /b", "GET /c", "ANY /d/{x}"]),
            st.sampled_from(list(Standing)),
            st.integers(1, 100),
        ),
        max_size=6,
    )
)
def test_the_last_word_on_a_route_holds(words: list[tuple[str, Standing, int]]) -> None:
    text = with_entries(new_rules("quay", "http://a:1", "http://b:2"), [entry(*word) for word in words])
    found = {r.route.name: (r.standing, r.share) for r in read_rules(text).routes}
    last = {name: (standing, float(share) if standing is Standing.SHARED else 0.0) for name, standing, share in words}
    assert found == last


def test_sides_are_changed_alone() -> None:
    read = read_rules(with_sides(TEXT, None, "http://ferry.example:8080"))
    assert (read.old, read.new) == ("http://127.0.0.1:1", "http://ferry.example:8080")


@pytest.mark.parametrize(
    "address",
    ["http://a;b:80", "http://a}evil{:80", "http://a b:1", "http://u:p@a:1", "http://a:1/x", "https://", "http://[::1"],
)
def test_what_is_no_host_gets_nowhere_near_a_configuration(address: str) -> None:
    with pytest.raises(BadInput):
        read_rules(new_rules("quay", address, "http://b:2"))


@pytest.mark.parametrize("text", ["routes: 5", "routes: {}", "- 1", "a: ["])
def test_a_file_that_cannot_be_changed_says_so(text: str) -> None:
    with pytest.raises(BadInput):
        with_entries(text, [entry("GET /a", Standing.NEW)])


def test_odd_names_and_shares_become_a_configuration_that_nothing_can_leave() -> None:
    text = with_entries(
        new_rules("quay", "https://a.example", "http://[::1]:2"), [entry('GET /a"b;c/{x}', Standing.SHARED, 0.5)]
    )
    shown = nginx_configuration(read_rules(text.replace("application: quay", "application: 'q\"; evil {}'")), 80)
    assert "evil {" not in shown
    assert '"b;c' not in shown
    assert "server a.example:443 " in shown
    assert "0.5% new;" in shown


def test_recorded_bodies_and_headers_are_taken_as_far_as_they_are_whole() -> None:
    body = (
        '{"log": {"entries": ['
        '{"request": {"method": "post", "url": "https://x/a?b=1", "headers": [{"name": ":path", "value": "/"}, {"name": "Host", "value": "x"},'
        ' {"name": "X-A", "value": "1"}, {"name": "X-B", "value": "1\\r\\nX-C: 2"}], "postData": {"text": "aGk=", "encoding": "base64"}}},'
        '{"request": {"method": "GET", "url": "https://x", "postData": {"text": "%%%", "encoding": "base64"}}},'
        '{"request": {"method": "GET /", "url": "https://x"}},'
        '{"request": {"method": "GET", "url": "https://x/a b"}}]}}'
    )
    read = read_har(body.encode())
    assert [(r.method, r.target, r.headers, r.body) for r in read.requests] == [
        ("POST", "/a?b=1", (("X-A", "1"),), b"hi"),
        ("GET", "/", (), b""),
    ]
    assert read.others == 2
