"""The graph of the portfolio: layers from libraries to their users, loops as one, and what a move frees or blocks."""

from __future__ import annotations

from yoake.core.portfolio.graph import portfolio_graph


def test_libraries_stand_below_their_users() -> None:
    graph = portfolio_graph(
        ["shop", "common", "base", "alone"], [("base", "common"), ("common", "shop"), ("base", "shop")]
    )
    layers = {p.slug: p.layer for p in graph.places}
    assert layers == {"shop": 2, "common": 1, "base": 0, "alone": 0}
    base = next(p for p in graph.places if p.slug == "base")
    assert base.frees == ("common", "shop")
    assert not base.blocks


def test_a_loop_is_told_and_stands_in_one_layer() -> None:
    graph = portfolio_graph(["a", "b", "c"], [("a", "b"), ("b", "a"), ("b", "c"), ("c", "c"), ("x", "c")])
    assert graph.circles == (("a", "b"),)
    assert {p.slug: (p.layer, p.circle) for p in graph.places} == {"a": (0, 0), "b": (0, 0), "c": (1, None)}
    assert graph.uses == (("a", "b"), ("b", "a"), ("b", "c"))
