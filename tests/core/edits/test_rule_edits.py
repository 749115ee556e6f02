"""What rules write instead, on their own samples: the rule speaks no more, nothing else is found, and again changes nothing."""

from __future__ import annotations

import ast
import json
from collections.abc import Iterator

import pytest

from tests.core.test_rule_samples import KNOWLEDGE, findings_in, found_in, sample_files
from yoake.core.edits.proposing import plan_file
from yoake.core.edits.texts import rewritten, text_changes
from yoake.core.knowledge.models import Rewrite, Rule, RuleFile
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.edits import applied


def edited() -> Iterator[tuple[RuleFile, Rule, str]]:
    for file in KNOWLEDGE.rule_files.values():
        for rule in file.rules:
            for text in rule.faulty if rule.edits else ():
                yield file, rule, text


CASES = list(edited())


def test_rules_of_many_kinds_say_what_to_write() -> None:
    assert len({rule.id for _, rule, _ in CASES}) >= 45
    assert len({file.coordinate for file, _, _ in CASES}) >= 12


@pytest.mark.parametrize(("file", "rule", "sample"), CASES, ids=[f"{r.id}-{n}" for n, (_, r, _) in enumerate(CASES)])
def test_a_faulty_sample_is_made_fine(file: RuleFile, rule: Rule, sample: str) -> None:
    path, text = next(iter(sample_files(file, rule, sample).items()))
    made = rewritten(path, text, rule.edits)
    assert rewritten(path, made, rule.edits) == made
    changes = text_changes(path, text.encode(), rule.edits)
    assert applied(text.encode(), changes).decode() == made
    if made == text:
        pytest.skip("a form of it that is left to a person")
    named = f"# file: {path}\n{made}"
    assert rule.id not in found_in(file, rule, named)
    assert found_in(file, rule, named) <= found_in(file, rule, sample)
    if path.endswith(".json"):
        json.loads(made)
    if ECOSYSTEMS.language_of_file(path) is not None:
        before = ECOSYSTEMS.read_source(path, text.encode()).broken
        assert len(ECOSYSTEMS.read_source(path, made.encode()).broken) <= len(before)


def test_comments_stay_as_they_are() -> None:
    rewrites = [Rewrite(was=r"\bold\(", now="new(")]
    assert (
        rewritten("a.js", "old(1); // old(2)\n/* old(3) */ old(4)\n", rewrites)
        == "new(1); // old(2)\n/* old(3) */ new(4)\n"
    )
    assert rewritten("a.html", "<!-- {{ old( }} -->{{ old( }}", rewrites) == "<!-- {{ old( }} -->{{ new( }}"


def test_what_finds_itself_again_is_no_edit() -> None:
    assert rewritten("a.js", "x", [Rewrite(was="x", now="xx")]) == "x"


def shaped() -> Iterator[tuple[RuleFile, Rule, str]]:
    for file in KNOWLEDGE.rule_files.values():
        for rule in file.rules:
            for text in rule.faulty if rule.shapes else ():
                yield file, rule, text


SHAPED = list(shaped())


def test_uses_of_many_libraries_are_written_otherwise() -> None:
    assert len({rule.id for file in KNOWLEDGE.rule_files.values() for rule in file.rules if rule.shapes}) >= 60
    assert len({file.coordinate for file, _, _ in SHAPED}) >= 8


@pytest.mark.parametrize(("file", "rule", "sample"), SHAPED, ids=[f"{r.id}-{n}" for n, (_, r, _) in enumerate(SHAPED)])
def test_a_faulty_use_is_made_fine(file: RuleFile, rule: Rule, sample: str) -> None:
    path, text = next(iter(sample_files(file, rule, sample).items()))
    before = findings_in(file, rule, sample)
    wanted = [f for f in before if f.symbol == rule.id or f.symbol.partition("(")[0] in rule.symbols]
    plan = plan_file(path, text.encode(), wanted, before, KNOWLEDGE)
    made = applied(text.encode(), plan.edited.changes if plan is not None else ()).decode()
    if plan is None or plan.refused:
        pytest.skip(f"a form of it that is left to a person: {plan.refused if plan is not None else ''}")
    if path.endswith(".py"):
        ast.parse(made)
    else:
        assert not ECOSYSTEMS.read_source(path, made.encode()).broken
    named = f"# file: {path}\n{made}"
    left = {f.symbol for f in findings_in(file, rule, named)}
    assert not left & {f.symbol for f in wanted}, made
    assert left <= {f.symbol for f in before}, made


def test_a_caught_import_around_a_use_is_about_something_else_where_the_module_is_imported_with_nothing_around_it() -> (
    None
):
    rule, file = next((r, f) for f, r, _ in SHAPED if r.id == "py-imp-find-module")
    use = "def there(name):\n    try:\n        return imp.find_module(name)\n    except ImportError:\n        return None\n"

    def refused(source: str) -> list[str]:
        before = findings_in(file, rule, source)
        wanted = [f for f in before if f.symbol == "imp.find_module"]
        plan = plan_file("sample.py", source.encode(), wanted, before, KNOWLEDGE)
        return list(plan.refused.values()) if plan is not None else ["nothing"]

    assert refused(f"import imp\n{use}") == []
    held = "try:\n    import imp\nexcept ImportError:\n    imp = None\n"
    assert "guarded here" in refused(f"{held}{use}")[0]
