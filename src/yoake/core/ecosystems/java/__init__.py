"""Java, its virtual machine, and packages of Maven repositories."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Final

from yoake.core.contract.ecosystem import Ecosystem, ManifestReader, RuntimeWords, SourceReader
from yoake.core.contract.path_style import PathStyle
from yoake.core.ecosystems.java.ant import read_build_xml, read_ivy
from yoake.core.ecosystems.java.compiled import read_compiled, read_jar_name
from yoake.core.ecosystems.java.gradle import read_catalogue, read_gradle, read_gradle_lock, read_nothing
from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.maven import read_pom
from yoake.core.ecosystems.java.names import JAVA, path_of, regrouped, shown, wider
from yoake.core.ecosystems.java.project import JavaProject
from yoake.core.ecosystems.java.syntax import java_parser, read_java
from yoake.core.ecosystems.java.versions import JAVA_LINES, MAVEN
from yoake.core.syntax.tree import is_bounded
from yoake.core.values.coordinates import Line

if TYPE_CHECKING:
    from yoake.core.contract.locality import Locality
    from yoake.core.values.facts import FileFacts
    from yoake.core.values.modules import Module


def _locality(facts: Mapping[str, FileFacts], _modules: Sequence[Module], _legacy: bool) -> Locality:
    return JavaProject(facts)


_IMAGES: Final = frozenset(
    ("openjdk", "java", "eclipse-temurin", "temurin", "adoptopenjdk", "amazoncorretto", "zulu-openjdk", "liberica-openjdk-debian",
     "liberica-openjdk-alpine", "sapmachine", "ibmjava", "ibm-semeru-runtimes")
)  # fmt: skip
_BUILDERS: Final = frozenset(("maven", "gradle", "tomcat", "jetty", "wildfly", "payara"))
_IN_TAG: Final = re.compile(r"(?:jdk|jre|openjdk|java|temurin|corretto)-?(\d+(?:\.\d+)?)")
_PIN: Final = re.compile(r"(?:[a-z]+-?)?((?:1\.)?\d{1,2})(?:[.+_-].*)?$")


def _image(name: str, tag: str) -> str | None:
    if name in _IMAGES:
        return level_of(tag.split("-", maxsplit=1)[0]) or _tagged(tag)
    if name in _BUILDERS:
        return _tagged(tag)
    plain = re.fullmatch(r"openjdk(\d{1,2})|java(\d{1,2})", name)
    return (plain.group(1) or plain.group(2)) if plain else None


def _tagged(tag: str) -> str | None:
    found = _IN_TAG.search(tag)
    return level_of(found.group(1)) if found else None


def _tool_version(text: str) -> str | None:
    digits = re.search(r"\d.*$", text)
    return level_of(digits.group()) if digits else None


def _lost_overload(keyword: str) -> str:
    count = keyword.lstrip("/")
    return f"no overload takes {count} argument{'' if count == '1' else 's'} any more"


_WORDS: Final = RuntimeWords(
    image=_image,
    pin_files={
        ".java-version": _PIN,
        ".sdkmanrc": re.compile(r"java\s*=\s*((?:1\.)?\d{1,2})(?:[.+_-].*)?$"),
        "system.properties": re.compile(r"java\.runtime\.version\s*=\s*((?:1\.)?\d{1,2})"),
    },
    tools=frozenset(("java",)),
    tool_version=_tool_version,
    ci_key=re.compile(r"java[-_]?versions?\s*[:=]|^\s*(?:jdk|java)\s*:", re.IGNORECASE),
    ci_number=re.compile(r"(?<![\w.])(?:openjdk|oraclejdk|temurin|jdk)?-?((?:1\.)?\d{1,2})(?:\.\d+)*(?:-ea)?(?![\w.])"),
    ci_image=re.compile(r"\b(?:openjdk|eclipse-temurin|amazoncorretto):(\d+)"),
    mention=re.compile(
        r"\b(?:java|jdk|jre|openjdk)(?:[-_ :=@]|\s+v?|\s+version\s+)?(?P<v>(?:1\.)?\d{1,2})(?:\.\d+){0,2}(?![\w.]*\d)|(?P<c>(?!))",
        re.IGNORECASE,
    ),
)

JAVA_ECOSYSTEM: Final = Ecosystem(
    language="java",
    title="Java",
    runtime=JAVA,
    package_type="maven",
    registry="Maven repositories",
    scheme=MAVEN,
    words=_WORDS,
    locality=_locality,
    manifests=(
        ManifestReader(names=("pom.xml",), read=read_pom),
        ManifestReader(names=("build.gradle", "build.gradle.kts"), read=read_gradle),
        ManifestReader(
            names=("settings.gradle", "settings.gradle.kts", "gradle.properties"),
            read=read_nothing,
            kind="configuration",
        ),
        ManifestReader(names=("libs.versions.toml",), read=read_catalogue, kind="configuration"),
        ManifestReader(names=("gradle.lockfile",), read=read_gradle_lock, kind="lock"),
        ManifestReader(names=("build.xml",), read=read_build_xml),
        ManifestReader(names=("ivy.xml",), read=read_ivy),
        ManifestReader(names=("*.jar",), read=read_jar_name, kind="artefact"),
    ),
    sources=(
        SourceReader(
            languages={".java": "Java"},
            read=lambda _path, text: read_java(text),
            is_bounded=lambda _path, text: is_bounded(java_parser(), text),
        ),
        SourceReader(languages={".class": "Java"}, read=lambda _path, data: read_compiled(data), compiled=True),
    ),
    style=PathStyle(
        as_written=shown,
        as_path=path_of,
        regrouped=regrouped,
        wider=wider,
        checked_overrides=True,
        typed_values=True,
        plain_names=True,
        lost_keyword=_lost_overload,
    ),
    lines=JAVA_LINES,
    canonical_name=lambda name: name.replace(":", "/", 1),
    tests=r"(^|/)src/(test|it|integration-?[tT]est)/|(^|/)[^/]*(Test|Tests|IT|TestCase)\.java$",
    built=r"(^|/)(target|build)/generated[^/]*/",
    how_read={
        "signature archive": "the platform’s own signature archive",
        "class files": "the class files of the artefacts",
    },
    web_frameworks=frozenset(
        (
            "org.springframework/spring-webmvc",
            "org.springframework.boot/spring-boot-starter-web",
            "jakarta.ws.rs/jakarta.ws.rs-api",
            "javax.ws.rs/javax.ws.rs-api",
            "io.quarkus/quarkus-resteasy",
            "io.micronaut/micronaut-http-server-netty",
            "com.sparkjava/spark-core",
            "io.javalin/javalin",
            "javax.servlet/javax.servlet-api",
            "jakarta.servlet/jakarta.servlet-api",
        )
    ),
    written_line=lambda line: Line(level_of(line) or line),
)
