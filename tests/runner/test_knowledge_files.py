"""The shipped knowledge: loads, validates, and agrees with the interpreters on this machine."""

from __future__ import annotations

import subprocess
from pathlib import Path

import pytest

from yoake.core.ecosystems.java.names import path_of
from yoake.core.ecosystems.javascript.names import NODE
from yoake.core.ecosystems.python.names import PYTHON
from yoake.core.frameworks.django.names import DJANGO
from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.judge import Judge
from yoake.core.values.coordinates import Line, line_key, parse_target
from yoake.core.values.errors import BadCoordinate, BadKnowledge
from yoake.core.values.journeys import Span
from yoake.runner.clients.python.interpreters import capture_stdlib, find_interpreters
from yoake.runner.knowledge_pack import shipped_folder
from yoake.shipped import KIT

INTERPRETERS = find_interpreters()
needs_old = pytest.mark.skipif(
    not {"3.8", "3.13"} <= set(INTERPRETERS),
    reason="needs Python 3.8 and 3.13 on this machine; skipped where there are none",
)


def test_both_timelines_cover_every_line_the_lifecycles_list(knowledge: Knowledge) -> None:
    for coordinate in (PYTHON, DJANGO):
        captured = set(knowledge.timelines[coordinate].names)
        listed = {facts.line for facts in knowledge.lifecycles[coordinate].lines}
        assert listed <= captured


def test_support_ends_after_release(knowledge: Knowledge) -> None:
    for lifecycle in knowledge.lifecycles.values():
        for facts in lifecycle.lines:
            assert facts.support_ends is None or facts.released < facts.support_ends


def test_every_rule_speaks_of_something_real(knowledge: Knowledge) -> None:
    for coordinate, file in knowledge.rule_files.items():
        for rule in file.rules:
            for symbol in rule.symbols if not rule.is_about_use else ():
                if symbol.startswith("syntax.") or coordinate not in knowledge.timelines:
                    continue
                path = knowledge.path_of(coordinate, symbol)
                if "." not in path:  # packages, with those below them
                    owned = knowledge.import_names(ECOSYSTEMS.language_of(coordinate))
                    assert any(name == path or name.startswith(path + path_of("a.b")[1]) for name in owned), rule.id
                    continue
                answer = knowledge.timelines[coordinate].ask(path)
                assert answer.offers | answer.unknown or rule.id in ("py-asyncio-async", "py-iteritems"), rule.id


def test_every_replacement_named_by_a_rule_exists(knowledge: Knowledge) -> None:
    for coordinate, file in knowledge.rule_files.items():
        for rule in file.rules:
            path = knowledge.path_of(coordinate, rule.replacement or "")
            owner = knowledge.import_names(ECOSYSTEMS.language_of(coordinate)).get(path.split(".")[0])
            if owner and rule.replacement != "none":
                answer = knowledge.timelines[owner].ask(path)
                assert answer.offers | answer.unknown, f"{rule.id}: {rule.replacement}"


def test_targets_are_completed_by_prefix_or_refused_with_what_is_known(knowledge: Knowledge) -> None:
    assert knowledge.check_target(parse_target("pypi/django@5")).line == "5.2"
    assert knowledge.check_target(parse_target("python@3.13.1")).line == "3.13"
    with pytest.raises(BadCoordinate, match=r"Known lines: 2\.7"):
        knowledge.check_target(parse_target("python@9"))
    with pytest.raises(BadCoordinate, match="knowledge build pypi/unheard"):
        knowledge.check_target(parse_target("pypi/unheard@1"))


def test_a_folder_of_ones_own_wins_and_its_faults_are_all_told(tmp_path: Path) -> None:
    own = tmp_path / "own"
    own.mkdir()
    text = (shipped_folder() / "effort.yaml").read_text("utf-8")
    (own / "effort.yaml").write_text(text.replace("days_per_week: 2", "days_per_week: 3"), "utf-8")
    assert KIT.knowledge(own).effort.days_per_week == 3
    (own / "effort.yaml").write_text(
        text.replace("days_per_week: 2", "days_per_week: 900").replace("kappa: 0.1", "kappa: -1"), "utf-8"
    )
    with pytest.raises(BadKnowledge) as told:
        KIT.knowledge(own)
    assert len(told.value.faults) == 2


@needs_old
def test_a_fresh_capture_gives_the_surface_that_ships(knowledge: Knowledge) -> None:
    line = "3.13"
    surface = capture_stdlib(Line(line), INTERPRETERS[Line(line)])
    timeline = knowledge.timelines[PYTHON]
    bit = 1 << (timeline.index(Line(line)) or 0)
    shipped = {path for path, symbol in timeline.symbols.items() if symbol.offers & bit}
    here = {path.split(".")[0] for path in surface.symbols}  # modules of other systems come from stubs
    differing = {p for p in set(surface.symbols) ^ shipped if p.split(".")[0] in here}
    public = {p for p in differing if not any(part.startswith("_") for part in p.split("."))}
    assert len(public) < 0.002 * len(shipped)


ASKED = [
    "collections.Mapping",
    "collections.abc.Mapping",
    "imp",
    "imp.load_source",
    "unittest.makeSuite",
    "unittest.TestCase.assertEquals",
    "asyncio.coroutine",
    "inspect.getargspec",
    "inspect.getfullargspec",
    "os.getcwdu",
    "distutils.version.LooseVersion",
    "xml.etree.cElementTree",
    "base64.encodestring",
    "time.clock",
    "typing.io",
    "ast.Num",
    "ast.Constant",
    "configparser.SafeConfigParser",
    "locale.getdefaultlocale",
    "ssl.wrap_socket",
    "cgi.escape",
    "html.escape",
    "platform.dist",
    "threading.Thread.isAlive",
    "array.array.tostring",
    "json.loads",
    "pathlib.Path.walk",
    "datetime.UTC",
    "tomllib",
    "smtpd.SMTPServer",
    "pipes.quote",
    "shlex.quote",
    "fractions.gcd",
    "math.gcd",
    "gettext.lgettext",
    "random.Random.jumpahead",
    "asyncio.Task.current_task",
    "importlib.find_loader",
    "importlib.resources.path",
    "pkgutil.find_loader",
    "sqlite3.OptimizedUnicode",
    "turtle.settiltangle",
    "unittest.mock.Mock",
]
PROBE = """
import sys, importlib
for path in sys.argv[1:]:
    parts = path.split("."); value = None; found = False
    for n in range(len(parts), 0, -1):
        try: value = importlib.import_module(".".join(parts[:n]))
        except ImportError: continue
        try:
            for name in parts[n:]: value = getattr(value, name)
            found = True
        except AttributeError: pass
        break
    print(int(found))
"""


@needs_old
@pytest.mark.parametrize("line", sorted({"3.8", "3.13"} & set(INTERPRETERS), key=line_key))
def test_the_timeline_says_what_the_real_interpreter_says(line: Line, knowledge: Knowledge) -> None:
    done = subprocess.run(
        [INTERPRETERS[line], "-W", "ignore", "-c", PROBE, *ASKED], capture_output=True, text=True, check=True
    )
    real = dict(zip(ASKED, (row == "1" for row in done.stdout.split()), strict=True))
    timeline = knowledge.timelines[PYTHON]
    position = timeline.index(line)
    said = {path: bool(timeline.ask(path).offers >> position & 1) for path in ASKED}
    assert said == real


def test_a_keyword_that_went_away_is_reshaped_not_removed(knowledge: Knowledge) -> None:
    judge = Judge(knowledge, {PYTHON: Span(Line("3.8"), Line("3.13"))}, "python")
    verdict = judge.keywords("asyncio.sleep", ("loop",))
    assert verdict is not None
    assert (verdict.kind, verdict.bites_at) == ("reshaped", "3.10")
    assert judge.keywords("asyncio.sleep", ("result",)) is None


@pytest.mark.parametrize(
    ("path", "last"),
    [
        ("collections.Iterable", "3.9"),
        ("collections.Callable", "3.9"),
        ("importlib.abc.ResourceReader", "3.13"),
        ("ast.Str", "3.13"),
    ],
)
def test_names_that_only_a_modules_own_getattr_brings_stay_until_it_stops(
    knowledge: Knowledge, path: str, last: str
) -> None:
    timeline = knowledge.timelines[PYTHON]
    assert timeline.lines_in(timeline.ask(path).offers)[-1] == last


def test_no_note_holds_a_name_that_was_to_be_put_in(knowledge: Knowledge) -> None:
    for coordinate in (NODE, PYTHON):
        notes = {text for symbol in knowledge.timelines[coordinate].symbols.values() for text, _ in symbol.notes}
        assert not [text for text in notes if "${" in text]
