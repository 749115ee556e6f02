"""Templates: tag libraries, tags and filters that the framework no longer has."""

from __future__ import annotations

from yoake.core.frameworks.django.names import DJANGO
from yoake.core.knowledge.base import Knowledge
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.run import ScanInput, run_scan
from yoake.core.values.coordinates import parse_target
from yoake.core.values.findings import FileResult
from yoake.core.values.modules import Module, Requirement

TEXT = b"""{% load staticfiles i18n our_tags %}
{% load url from future %}
{% if a|length_is:"3" %}{% ifequal a b %}x{% endifequal %}{% endif %}
{{ name|upper|default:"a|length_is" }} {% our_tag %} {% trans "x" %}
"""


def test_what_is_gone_is_found_at_its_place_and_nothing_else(knowledge: Knowledge) -> None:
    path = "app/templates/page.html"
    given = ScanInput(
        facts={path: ECOSYSTEMS.read_source(path, TEXT)},
        files=[FileResult(path=path, state="scanned")],
        modules=[Module(path="", name="app")],
        destination=[parse_target("pypi/django@5.2")],
        said=[parse_target("pypi/django@1.8")],
    )
    # nothing in a template imports the framework, so a line that a person gave must count on its own
    given.modules[0].requirements.append(
        Requirement(coordinate=DJANGO, name="django", specifier="==1.8", file="requirements.txt", line=1)
    )
    found = {
        (p.line, p.column, f.symbol)
        for f in run_scan(given, knowledge).findings
        for p in f.places
        if f.kind == "removed"
    }
    assert found == {
        (1, 8, "django.contrib.staticfiles.templatetags.staticfiles"),
        (2, 17, "django.templatetags.future"),
        (3, 8, "django.template.defaultfilters.length_is"),
        (3, 27, "django.template.defaulttags.ifequal"),
    }


def test_only_templates_are_read_as_such() -> None:
    assert ECOSYSTEMS.language_of_file("app/templates/a/page.html") == "Template"
    assert ECOSYSTEMS.language_of_file("static/page.html") is None
