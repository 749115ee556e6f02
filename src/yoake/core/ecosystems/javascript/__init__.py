"""JavaScript, TypeScript and npm."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Final

from yoake.core.contract.ecosystem import Document, Ecosystem, ManifestReader, RuntimeWords, SourceReader
from yoake.core.contract.path_style import PathStyle
from yoake.core.ecosystems.javascript import manifests
from yoake.core.ecosystems.javascript.assembled import is_assembled
from yoake.core.ecosystems.javascript.commands import node_commands
from yoake.core.ecosystems.javascript.edits import rename_in_javascript
from yoake.core.ecosystems.javascript.evaluation.evaluator import JavaScriptEvaluator
from yoake.core.ecosystems.javascript.files import is_bounded_script, minified, read_script
from yoake.core.ecosystems.javascript.names import NODE, described_package
from yoake.core.ecosystems.javascript.project import JsProject
from yoake.core.ecosystems.javascript.respecify import respecified
from yoake.core.ecosystems.javascript.specifiers import GLOBAL, owning_part, shown
from yoake.core.ecosystems.javascript.versions import NODE_LINES, NPM

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.modules import Module

_NUMBER: Final = re.compile(r"v?(\d+(?:\.\d+){0,2})")
_PIN: Final = re.compile(r"v?(\d+(?:\.\d+){0,2})\s*$")


def _image(name: str, tag: str) -> str | None:
    found = _NUMBER.match(tag) if name == "node" else None
    return found.group(1) if found else None


def _locality(facts: Mapping[str, FileFacts], modules: Sequence[Module], _legacy: bool) -> Locality:
    aliases = [pair for module in modules for pair in module.aliases]
    packages = {m.import_name: (m.path, m.main) for m in modules if m.import_name}
    return JsProject(facts, aliases, packages)


def _package_json(document: Document, module: Module) -> None:
    manifests.read_package_json(document.path, document.text, module)


def _package_lock(document: Document, module: Module) -> None:
    manifests.read_package_lock(document.path, document.text, module)


def _yarn_lock(document: Document, module: Module) -> None:
    manifests.read_yarn_lock(document.path, document.text, module)


def _pnpm_lock(document: Document, module: Module) -> None:
    manifests.read_pnpm_lock(document.path, document.text, module)


def _configuration(document: Document, module: Module) -> None:
    manifests.read_configuration(document.path, document.text, module)


_WORDS: Final = RuntimeWords(
    image=_image,
    pin_files={".nvmrc": _PIN, ".node-version": _PIN},
    tools=frozenset(("nodejs", "node")),
    ci_key=re.compile(r"node[-_]?versions?\s*[:=]|^\s*node_js\s*:", re.IGNORECASE),
    ci_number=re.compile(r"(?<![\w.])v?(\d{1,2})(?:\.(?:\d{1,3}|x)){0,2}(?![\w.])"),
    ci_image=re.compile(r"\bnode:(\d+)"),
    mention=re.compile(
        r"\bnode(?:\.?js)?(?:[-_ :=@]|\s+v?|\s+version\s+v?)"
        r"(?P<v>\d{1,2})(?:\.\d+){0,2}(?![\w.]*\d)|\bsetup_(?P<c>\d{1,2})\.x\b",
        re.IGNORECASE,
    ),
)

_LANGUAGES: Final = {
    ".js": "JavaScript",
    ".mjs": "JavaScript",
    ".cjs": "JavaScript",
    ".jsx": "JavaScript",
    ".ts": "TypeScript",
    ".mts": "TypeScript",
    ".cts": "TypeScript",
    ".tsx": "TypeScript",
    ".vue": "Vue",
    ".svelte": "Svelte",
}

JAVASCRIPT: Final = Ecosystem(
    language="javascript",
    title="Node",
    runtime=NODE,
    package_type="npm",
    registry="npm",
    scheme=NPM,
    words=_WORDS,
    locality=_locality,
    manifests=(
        ManifestReader(names=manifests.MANIFESTS, read=_package_json),
        ManifestReader(names=("package-lock.json", "npm-shrinkwrap.json"), read=_package_lock, kind="lock"),
        ManifestReader(names=("yarn.lock",), read=_yarn_lock, kind="lock"),
        ManifestReader(names=("pnpm-lock.yaml",), read=_pnpm_lock, kind="lock"),
        ManifestReader(names=manifests.CONFIGURATIONS, read=_configuration, kind="configuration"),
    ),
    sources=(
        SourceReader(
            languages=_LANGUAGES,
            read=read_script,
            is_bounded=is_bounded_script,
            refused=minified,
            is_put_together=is_assembled,
        ),
    ),
    style=PathStyle(
        joint="().",
        calls=True,
        global_prefix=f"{GLOBAL}.",
        default_part="default",
        owner=owning_part,
        as_written=shown,
    ),
    lines=NODE_LINES,
    nested=True,
    described=described_package,
    stated_by_range=True,
    locks_below=True,
    foreign_folders=frozenset(("node_modules", "bower_components")),
    how_read={
        "Node program": "the real Node programs",
        "package files": "the files of the packages",
        "package files and its modules, imported": "the packages, whose modules were imported",
    },
    web_frameworks=frozenset(("express", "koa", "fastify", "@hapi/hapi", "hapi", "restify", "@nestjs/core", "next")),
    generator_files=frozenset(
        (
            "angular.json",
            ".yo-rc.json",
            "vue.config.js",
            "nest-cli.json",
            ".angular-cli.json",
            "ember-cli-build.js",
            "config-overrides.js",
        )
    ),
    silent_files=frozenset(("package-lock.json", "npm-shrinkwrap.json", "package.json", "tsconfig.json")),
    tests=r"\.(test|spec)\.[cm]?[jt]sx?$",
    built=(
        r"(^|/)(dist|build|out|coverage|public/assets|static/build)/"
        r"(?!(?:[^/]*/)*[^/]*(?:webpack|rollup|gulp|\.conf|config)[^/]*$).*\.(js|mjs|cjs)$"
        r"|\.min\.[cm]?js$|-min\.js$|\.bundle\.js$"
    ),
    rename=rename_in_javascript,
    ranges_in=manifests.package_json_ranges,
    respecified=respecified,
    commands=node_commands,
    evaluator=JavaScriptEvaluator,
)
