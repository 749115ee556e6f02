"""Two answers are alike where a person would say so, and what differs has one cause a reason."""

from __future__ import annotations

import gzip
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yoake.core.crossing.guard import Guard
from yoake.core.crossing.masking import masked
from yoake.core.crossing.parity import Answer, differences, visible_text
from yoake.core.crossing.rules import (
    Comparison,
    FallBack,
    RouteRule,
    Side,
    Standing,
    bucket,
    decide,
)
from yoake.core.values.routes import Route

JSON = "application/json"


def answer(body: object, kind: str = JSON, status: int = 200, **headers: str) -> Answer:
    text = body if isinstance(body, bytes) else json.dumps(body).encode()
    return Answer(status=status, headers={"content-type": kind} | headers, body=text)


def causes(old: object, new: object, kind: str = JSON, **comparison: object) -> list[str]:
    return [d.cause for d in differences(answer(old, kind), answer(new, kind), Comparison(**comparison))]  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("old", "new", "cause"),
    [
        ({"a": 1, "b": [1, 2]}, {"b": [1, 2], "a": 1}, []),
        ({"a": 1.0}, {"a": 1}, []),
        ({"a": [{"p": 1}, {"p": 2}]}, {"a": [{"p": 1}, {"p": 3}]}, ["number: $.a[*].p"]),
        ({"a": [1, 2]}, {"a": [2, 1]}, ["order of items: $.a"]),
        ({"a": [1, 2]}, {"a": [1]}, ["number of items: $.a"]),
        ({"a": 1}, {"b": 1}, ["missing on the new side: $.a", "only on the new side: $.b"]),
        ({"a": "1"}, {"a": 1}, ["text → number: $.a"]),
        ({"a": True}, {"a": 1}, []),
        ({"a": None}, {"a": "x"}, ["nothing → text: $.a"]),
        ([1], {"a": 1}, ["list → object: $"]),
    ],
)
def test_json_by_path(old: object, new: object, cause: list[str]) -> None:
    assert causes(old, new) == cause


def test_what_is_ignored_and_how_far_numbers_may_be_apart() -> None:
    old = {"at": 1, "items": [{"id": 1, "fare": 12.50}], "deep": {"x": {"trace": "a"}}}
    new = {"at": 2, "items": [{"id": 9, "fare": 12.51}], "deep": {"x": {"trace": "b"}}}
    assert causes(old, new, ignored=("$.at", "$.items[*].id", "$..trace"), tolerances={"$.items[*].fare": 0.011}) == []
    assert causes(old, new, ignored=("$.at", "$.items[*].id", "$..trace")) == ["number: $.items[*].fare"]
    assert causes({"ab": 1}, {"ab": 2}, ignored=("$.a",)) == ["number: $.ab"]


def test_status_and_headers() -> None:
    assert [d.cause for d in differences(answer({}), answer({}, status=404), Comparison())] == ["status: 200 → 404"]
    old = answer({}, location="http://old:1/a", etag="1")
    new = answer({}, kind='application/json; charset="utf-8"', location="http://new:2/b", etag="2")
    assert [d.cause for d in differences(old, new, Comparison())] == ["header: content-type", "header: location"]
    assert (
        differences(
            answer({}, kind="TEXT/html; charset=UTF-8"), answer({}, kind="text/html;charset=utf-8"), Comparison()
        )
        == ()
    )


def test_pages_by_what_one_sees() -> None:
    old = b"<html><head><title>x</title></head><body><h1>Sailings</h1><p>Fare: <b>12.50</b></p><script>var a=1</script></body>"
    new = b"<body class=y><!-- other --><h1>Sailings</h1>\n\n<p>Fare:   <i>12.50</i></p><p hidden>no</p><script>2</script>"
    assert visible_text(old) == ["Sailings", "Fare: 12.50"]
    assert causes(old, new, "text/html") == []
    assert causes(old, new.replace(b"12.50", b"13.00"), "text/html") == ["text: Fare: #"]
    assert causes(old, new.replace(b"12.50", b"13.00"), "text/html", ignored_text=(r"\d+\.\d+",)) == []


def test_packed_bodies_are_unpacked_and_others_compared_by_their_bytes() -> None:
    packed = Answer(
        status=200, headers={"content-type": JSON, "content-encoding": "gzip"}, body=gzip.compress(b'{"a": 1}')
    )
    assert differences(packed, answer({"a": 1}), Comparison()) == ()
    assert causes(b"\x89PNG1", b"\x89PNG2", "image/png") == ["body: image/png"]
    bomb = Answer(
        status=200, headers={"content-type": JSON, "content-encoding": "gzip"}, body=gzip.compress(b"0" * 50_000_000)
    )
    assert differences(bomb, answer({"a": 1}), Comparison())


@pytest.mark.parametrize("body", [b"[" * 100_000, b"\xff\xfe", b"", b"<" * 10_000, b"<p>" * 50_000])
@pytest.mark.parametrize("kind", [JSON, "text/html", "text/plain", ""])
def test_bodies_that_mean_harm_are_compared_to_an_end(body: bytes, kind: str) -> None:
    assert differences(answer(body, kind), answer(b"{}", kind), Comparison())


@given(
    st.recursive(
        st.none() | st.booleans() | st.integers() | st.text(),
        lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner),
        max_leaves=20,
    )
)
def test_an_answer_is_like_itself(value: object) -> None:
    assert causes(value, value) == []


def test_personal_data_cannot_be_read_in_what_is_kept() -> None:
    shown = masked("Ines Calder, ines@ferry.example, +44 7700 900123, tok_abcdefghijklmnopqrstuvwxyz; fare 12.50")
    for secret in ("Ines", "ines@", "7700", "900123", "abcdefghij"):
        assert secret not in shown
    assert "12.50" in shown


@given(st.text(min_size=1), st.floats(0, 100), st.floats(0, 100))
def test_whoever_is_on_the_new_side_stays_there_when_the_share_grows(caller: str, one: float, other: float) -> None:
    small, large = sorted((one, other))

    def side(share: float) -> Side:
        rule = RouteRule(route=Route(method="GET", path="/a"), standing=Standing.SHARED, share=share)
        return decide(rule, "", caller, "quay").side

    assert not (side(small) is Side.NEW and side(large) is Side.OLD)


def test_a_share_is_a_share_of_the_callers() -> None:
    on_new = sum(bucket(f"caller {number}", "quay") < 2_500 for number in range(4_000))
    assert 900 <= on_new <= 1_100


def test_nothing_is_asked_twice_that_may_change_something() -> None:
    rule = RouteRule(route=Route(method="ANY", path="/a"), standing=Standing.MIRRORED)
    assert decide(rule, "", "", "quay", method="GET").mirror
    assert not decide(rule, "", "", "quay", method="POST").mirror


def test_a_persons_data_is_told_by_its_key_only() -> None:
    (found,) = differences(
        answer({"customer": {"firstName": "Ines"}}), answer({"customer": {"firstName": "Jon"}}), Comparison()
    )
    assert (found.where, found.old, found.new) == ("$.customer.firstName", "…", "…")
    (found,) = differences(
        answer(b"<p>Dear Ines Calder</p>", "text/html"), answer(b"<p>Hello</p>", "text/html"), Comparison()
    )
    assert "Ines" not in found.where + found.old


def test_a_tester_chooses_a_side_also_where_no_rule_names_the_route() -> None:
    assert decide(None, "", "", "quay").side is Side.OLD
    assert decide(None, "new", "", "quay").side is Side.NEW
    rule = RouteRule(route=Route(method="GET", path="/a"), standing=Standing.MIRRORED)
    assert not decide(rule, "old", "", "quay").mirror


def filled(old: tuple[int, float], new: tuple[int, float], count: int = 60, failing: int = 0) -> Guard:
    guard = Guard(FallBack())
    for number in range(count):
        guard.add(Side.OLD, *old)
        guard.add(Side.NEW, 500 if number < failing else new[0], new[1])
    return guard


def test_a_route_falls_back_for_failures_and_for_time_but_not_too_soon() -> None:
    assert filled((200, 0.02), (200, 0.025)).verdict() == ""
    assert "failed" in filled((200, 0.02), (200, 0.02), failing=3).verdict()
    assert filled((500, 0.02), (500, 0.02)).verdict() == ""  # both fail alike
    assert "95 %" in filled((200, 0.03), (200, 0.06)).verdict()
    assert filled((200, 0.001), (200, 0.025)).verdict() == ""  # nobody's trouble
    assert filled((200, 0.02), (200, 0.5), count=40).verdict() == ""
    assert filled((200, 0.02), (500, 0.02), count=9).verdict() == ""
    assert "the last 10 answers" in filled((200, 0.02), (500, 0.02), count=10).verdict()
