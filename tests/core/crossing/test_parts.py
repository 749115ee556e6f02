"""What a route drags along, when parts are cut off: nothing behind a cut is counted, and nothing else is lost."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yoake.core.crossing.parts import Part, PartChoice, PartGraph, PartKey, PartNode, edges_among
from yoake.core.crossing.slices import in_order, with_findings
from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.values.findings import Finding, Place, Window
from yoake.core.values.routes import Route


def node(name: str, *reaches: int, lines: int = 10, tables: tuple[str, ...] = ()) -> PartNode:
    return PartNode(part=Part(f"{name}.py", 5, name, lines), reaches=reaches, tables=tables)


GRAPH = PartGraph(
    (
        node("sell", 1, 2),
        node("fare", 3, lines=4),
        node("mail", 3),
        node("log", lines=2, tables=("Log",)),
        node("show", 1),
    ),
    {"POST /tickets": 0, "GET /fares": 4},
)
MAIL, LOG = PartKey("mail.py", "mail"), PartKey("log.py", "log")


def names(route: str, choices: dict[PartKey, PartChoice]) -> set[str]:
    return {part.name for part in GRAPH.needs(route, choices).parts}


def test_what_lies_behind_a_cut_is_dragged_along_only_where_something_else_reaches_it() -> None:
    assert names("POST /tickets", {}) == {"sell", "fare", "mail", "log"}
    cut = GRAPH.needs("POST /tickets", {MAIL: PartChoice.BRIDGE})
    assert {part.name for part in cut.parts} == {"sell", "fare", "log"}
    assert {part.name for part in cut.bridged} == {"mail"}
    without = GRAPH.needs("POST /tickets", {MAIL: PartChoice.LEAVE, LOG: PartChoice.LEAVE})
    assert ({part.name for part in without.left}, without.tables) == ({"mail", "log"}, set())
    assert names("GET /fares", {LOG: PartChoice.LEAVE}) == {"show", "fare"}
    assert GRAPH.needs("GET /nowhere", {}).parts == set()


def test_the_handler_always_moves_with_its_route() -> None:
    assert "sell" in names("POST /tickets", {PartKey("sell.py", "sell"): PartChoice.LEAVE})


def test_the_picture_has_the_lines_between_what_is_reached() -> None:
    reached = GRAPH.reached("POST /tickets", {MAIL: PartChoice.BRIDGE})
    assert {(GRAPH.nodes[each.at].part.name, each.depth) for each in reached} == {
        ("sell", 0),
        ("fare", 1),
        ("mail", 1),
        ("log", 2),
    }
    assert set(edges_among(GRAPH, reached)) == {(0, 1), (0, 2), (1, 3)}  # none leaves what is shared


def test_two_graphs_as_one_keep_their_routes() -> None:
    both = GRAPH.and_of(PartGraph((node("page", 1), node("draw")), {"GET /page": 0, "GET /fares": 1}))
    assert {part.name for part in both.needs("GET /page", {}).parts} == {"page", "draw"}
    assert {part.name for part in both.needs("GET /fares", {}).parts} == {"show", "fare", "log"}


graphs = st.integers(1, 12).flatmap(
    lambda count: st.lists(st.lists(st.integers(0, count - 1), max_size=4), min_size=count, max_size=count)
)


@given(graphs, st.dictionaries(st.integers(0, 11), st.sampled_from(list(PartChoice))))
def test_cutting_never_drags_more_along(edges: list[list[int]], cuts: dict[int, PartChoice]) -> None:
    graph = PartGraph(tuple(node(f"p{at}", *reaches) for at, reaches in enumerate(edges)), {"GET /": 0})
    choices = {PartKey(f"p{at}.py", f"p{at}"): choice for at, choice in cuts.items()}
    whole, cut = graph.needs("GET /", {}), graph.needs("GET /", choices)
    assert cut.parts <= whole.parts
    assert cut.bridged | cut.left <= whole.parts
    assert not cut.parts & (cut.bridged | cut.left)


def found(key: str, *places: tuple[str, int]) -> Finding:
    at = tuple(
        Place(
            key=f"{key}{line}",
            file=file,
            line=line,
            column=0,
            end_column=1,
            symbol="x",
            form="name",
            scope="",
            guarded="",
            level="error",
        )
        for file, line in places
    )
    first, last = Line("3.8"), Line("3.12")
    window = Window(
        state="now",
        coordinate=Coordinate("pkg:generic/python"),
        axis=(first, last),
        old=(first,),
        new=(first, last),
        both=(first,),
        here=first,
        goal=last,
    )
    return Finding(
        key=key,
        module="",
        coordinate=Coordinate("pkg:generic/python"),
        kind="removed",
        symbol="x",
        title=key,
        bites_at=Line("3.12"),
        after=None,
        level="error",
        confidence="certain",
        replacement=None,
        remedy="",
        mechanical=False,
        effort=(1, 2, 3),
        window=window,
        evidence=(),
        places=at,
    )


def test_a_finding_belongs_to_the_first_slice_that_brings_its_code() -> None:
    routes = [Route(method="POST", path="/tickets"), Route(method="GET", path="/fares")]
    needs = GRAPH.all_needs()
    order = in_order({"first": ["GET /fares"], "then": ["POST /tickets"]}, routes, needs, {})
    findings = [
        found("both", ("fare.py", 6), ("sell.py", 7)),
        found("head", ("mail.py", 1)),
        found("behind", ("mail.py", 40)),
        found("elsewhere", ("cron.py", 3)),
    ]
    slices = with_findings(order, needs, findings)
    assert [(each.name, each.routes, each.lines, each.findings) for each in slices] == [
        ("first", 1, 16, ("both",)),
        ("then", 1, 20, ("head",)),
    ]
