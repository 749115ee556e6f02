"""What Maven, Gradle, Ant and Ivy state of a Java module."""

from __future__ import annotations

import pytest

from yoake.core.ecosystems.java.levels import level_of
from yoake.core.ecosystems.java.names import JAVA
from yoake.core.ecosystems.java.versions import MAVEN
from yoake.core.inventory.assemble import assemble, stated_lines
from yoake.core.registered import ECOSYSTEMS
from yoake.core.values.coordinates import Line
from yoake.core.values.modules import Module

LINES = {JAVA: [Line(str(line)) for line in range(8, 26)]}

ROOT = """<project xmlns="http://maven.apache.org/POM/4.0.0">
  <groupId>ferries</groupId><artifactId>harbour</artifactId><version>3</version>
  <properties>
    <java.version>1.8</java.version>
    <jetty.version>9.4.50</jetty.version>
  </properties>
  <dependencyManagement><dependencies>
    <dependency><groupId>commons-io</groupId><artifactId>commons-io</artifactId><version>2.6</version></dependency>
    <dependency><groupId>org.junit</groupId><artifactId>junit-bom</artifactId><version>5.9.0</version>
      <type>pom</type><scope>import</scope></dependency>
  </dependencies></dependencyManagement>
  <profiles><profile><id>night</id>
    <dependencies><dependency><groupId>lamp</groupId><artifactId>oil</artifactId><version>1</version></dependency></dependencies>
  </profile></profiles>
</project>"""

CHILD = """<project>
  <parent><groupId>ferries</groupId><artifactId>harbour</artifactId><version>3</version></parent>
  <artifactId>berths</artifactId>
  <dependencies>
    <dependency><groupId>commons-io</groupId><artifactId>commons-io</artifactId></dependency>
    <dependency>
      <groupId>org.eclipse.jetty</groupId>
      <artifactId>jetty-server</artifactId>
      <version>${jetty.version}</version>
    </dependency>
    <dependency><groupId>${project.groupId}</groupId><artifactId>ropes</artifactId><version>${project.version}</version></dependency>
    <dependency><groupId>junit</groupId><artifactId>junit</artifactId><version>4.13</version><scope>test</scope></dependency>
  </dependencies>
</project>"""


def modules(**files: str) -> dict[str, Module]:
    given = {name.replace("__", "/").replace("_xml", ".xml"): text.encode() for name, text in files.items()}
    return {m.path: m for m in assemble(given, "root", ECOSYSTEMS)}


def stated(files: dict[str, str], path: str = "") -> tuple[str, str, int]:
    made = {m.path: m for m in assemble({n: t.encode() for n, t in files.items()}, "root", ECOSYSTEMS)}
    found = stated_lines(made[path], LINES, ECOSYSTEMS)[JAVA]
    return found.line, found.file, found.line_number


def wanted(module: Module) -> set[tuple[str, str, str]]:
    return {(r.name, r.specifier, r.group) for r in module.requirements}


def test_a_child_takes_versions_and_the_java_of_its_parent() -> None:
    found = modules(pom_xml=ROOT, berths__pom_xml=CHILD)
    assert wanted(found["berths"]) == {
        ("commons-io:commons-io", "2.6", ""),
        ("org.eclipse.jetty:jetty-server", "9.4.50", ""),
        ("ferries:ropes", "3", ""),
        ("junit:junit", "4.13", "test"),
    }
    assert wanted(found[""]) == {("org.junit:junit-bom", "5.9.0", "import"), ("lamp:oil", "1", "profile night")}
    assert found["berths"].name == "berths"
    line = next(r.line for r in found["berths"].requirements if r.name.startswith("org.eclipse"))
    assert CHILD.splitlines()[line - 1].strip() == "<version>${jetty.version}</version>"
    assert stated({"pom.xml": ROOT, "berths/pom.xml": CHILD}, "berths") == ("8", "pom.xml", 4)


def test_the_compilers_own_configuration_wins_over_properties() -> None:
    build = "<build><plugins><plugin><artifactId>maven-compiler-plugin</artifactId>\n<configuration><release>11</release></configuration></plugin></plugins></build>"
    assert stated({"pom.xml": ROOT.replace("</project>", f"{build}</project>")})[:2] == ("11", "pom.xml")


@pytest.mark.parametrize(
    ("script", "line"),
    [
        ("sourceCompatibility = 1.8\ntargetCompatibility = 1.8\n", "8"),
        ("sourceCompatibility = JavaVersion.VERSION_11\n", "11"),
        ("java { toolchain { languageVersion = JavaLanguageVersion.of(17) } }\nsourceCompatibility = '8'\n", "17"),
        ("tasks.withType(JavaCompile) { options.release = 11 }\n", "11"),
        ("def level = '1.8'\n// sourceCompatibility = 17\nsourceCompatibility = level\n", "8"),
        ("/* sourceCompatibility = 17 */\nsourceCompatibility = javaLevel\n", "21"),
    ],
)
def test_gradle_says_the_java_in_many_ways(script: str, line: Line) -> None:
    files = {"build.gradle": script, "settings.gradle": "", "gradle.properties": "javaLevel=21\n"}
    assert stated(files)[:2] == (line, "build.gradle")


def test_kotlin_scripts_are_read_too() -> None:
    text = 'kotlin { jvmToolchain(17) }\ndependencies { \n  implementation("org.slf4j:slf4j-api:1.7.36")\n}\n'
    assert stated({"build.gradle.kts": text})[0] == "17"
    found = modules(**{"build.gradle.kts": text})[""]
    assert wanted(found) == {("org.slf4j:slf4j-api", "1.7.36", "")}


def test_gradle_takes_versions_from_variables_properties_the_catalogue_and_maps() -> None:
    files = {
        "settings.gradle": "rootProject.name = 'harbour'\n",
        "gradle.properties": "slf4j=1.7.36\n",
        "gradle/libs.versions.toml": '[versions]\njetty = "9.4.50"\n[libraries]\njetty-server = { module = "org.eclipse.jetty:jetty-server", version.ref = "jetty" }\noil = "lamp:oil:1.4"\n',
        "build.gradle": "ext { guava = '31.1' }\n",
        "berths/build.gradle": (
            'dependencies {\n  implementation "org.slf4j:slf4j-api:$slf4j"\n  api libs.jetty.server\n  implementation libs.oil\n'
            "  testImplementation group: 'junit', name: 'junit', version: '4.13'\n  compile \"com.google.guava:guava:${guava}\"\n"
            "  implementation project(':ropes')\n  runtimeOnly 'a:b'\n  implementation \"c:d:$missing\"\n}\n"
        ),
        "berths/gradle.lockfile": "# made\norg.slf4j:slf4j-api:1.7.30=compileClasspath\nempty=\n",
    }
    found = {m.path: m for m in assemble({n: t.encode() for n, t in files.items()}, "root", ECOSYSTEMS)}
    assert wanted(found["berths"]) == {
        ("org.slf4j:slf4j-api", "1.7.36", ""),
        ("org.eclipse.jetty:jetty-server", "9.4.50", ""),
        ("lamp:oil", "1.4", ""),
        ("junit:junit", "4.13", "test"),
        ("com.google.guava:guava", "31.1", ""),
        ("a:b", "", ""),
        ("c:d", "", ""),
    }
    assert found[""].name == "harbour"
    assert [(e.coordinate, e.release) for e in found["berths"].locked] == [("pkg:maven/org.slf4j/slf4j-api", "1.7.30")]


def test_ant_and_ivy_as_far_as_they_state_anything() -> None:
    build = '<project name="tide"><property name="level" value="1.8"/>\n<target><javac source="${level}"/></target></project>'
    ivy = '<ivy-module><dependencies><dependency org="lamp" name="oil" rev="1.4" conf="test->default"/></dependencies></ivy-module>'
    assert stated({"build.xml": build}) == ("8", "build.xml", 2)
    assert wanted(modules(ivy_xml=ivy)[""]) == {("lamp:oil", "1.4", "test")}


@pytest.mark.parametrize(
    "text",
    [
        "<project><broken></project>",
        "<!DOCTYPE x [<!ENTITY a 'aaaa'><!ENTITY b '&a;&a;&a;'>]><project><artifactId>&b;</artifactId></project>",
        "<html/>",
        "<project>" + "<a>" * 5_000,
        "",
    ],
)
def test_a_bad_pom_is_a_fault_of_that_file_or_says_nothing(text: str) -> None:
    found = modules(pom_xml=text)[""]
    assert not found.requirements
    assert "aaaa" not in found.name


@pytest.mark.parametrize(
    ("written", "line"),
    [
        ("1.8", "8"),
        ("8", "8"),
        ("VERSION_1_8", "8"),
        ("VERSION_17", "17"),
        ("17.0.2-tem", "17"),
        ("temurin-21.0.1+12", "21"),
        ("1.x", None),
        ("latest", None),
        ("2024", None),
    ],
)
def test_a_version_of_java_is_read_however_it_is_written(written: str, line: Line | None) -> None:
    assert level_of(written) == line


@pytest.mark.parametrize(
    ("name", "text", "line"),
    [
        (".java-version", "11\n", "11"),
        (".sdkmanrc", "java=17.0.5-tem\n", "17"),
        (".tool-versions", "java temurin-21.0.1+12\n", "21"),
        ("Dockerfile", "FROM eclipse-temurin:17-jre\n", "17"),
        ("Dockerfile", "FROM maven:3.8-openjdk-11 AS build\n", "11"),
        ("Dockerfile", "FROM openjdk:8-jdk-alpine\n", "8"),
        (".github/workflows/build.yml", "    java-version: '17'\n", "17"),
        (".travis.yml", "jdk:\n  - openjdk8\n", "8"),
    ],
)
def test_toolchain_files_say_which_java(name: str, text: str, line: Line) -> None:
    assert stated({name: text, "pom.xml": "<project><artifactId>a</artifactId></project>"})[0] == line


@pytest.mark.parametrize(
    ("wanted_range", "inside", "outside"),
    [("[1.0,2.0)", "1.5", "2.0"), ("1.2", "1.2", "1.3"), ("(,1.0],[1.2,)", "1.2", "1.1"), ("1.4.+", "1.4.9", "1.5")],
)
def test_a_maven_range_admits_what_it_says(wanted_range: str, inside: str, outside: str) -> None:
    test = MAVEN.test(wanted_range)
    assert test is not None
    assert test(inside)
    assert not test(outside)
    assert MAVEN.exact("[1.2]") == "1.2"
    assert MAVEN.exact("[1.2,)") is None


def test_a_pattern_of_files_begins_no_comment() -> None:
    text = (
        "sourceSets { main { exclude '**/*.txt' } }\ndependencies {\n  api 'lamp:oil:1.4' // 'lamp:wick:1'\n"
        "  /* api 'a:b:1' */ api 'c:d:2' /* from here\n  api 'e:f:3'\n  */\n  api \"g:h:4\"\n}\n"
    )
    assert wanted(modules(**{"build.gradle": text})[""]) == {
        ("lamp:oil", "1.4", ""),
        ("c:d", "2", ""),
        ("g:h", "4", ""),
    }


def test_properties_that_unfold_without_end_are_not_known() -> None:
    unfolding = "".join(f"<p{i}>{f'${{p{i + 1}}}' * 50}</p{i}>" for i in range(8))
    pom = (
        f"<project><properties>{unfolding}<p8>1</p8><own>2</own></properties><dependencies>"
        "<dependency><groupId>a</groupId><artifactId>b</artifactId><version>${p0}</version></dependency>"
        "<dependency><groupId>c</groupId><artifactId>d</artifactId><version>${own}</version></dependency></dependencies></project>"
    )
    assert wanted(modules(pom_xml=pom)[""]) == {("a:b", "", ""), ("c:d", "2", "")}
    script = f'dependencies {{\n  api "a:b:{"$long" * 300}"\n  api "c:d:$own"\n}}\n'
    files = {"build.gradle": script, "settings.gradle": "", "gradle.properties": f"long={'9' * 1000}\nown=2\n"}
    assert wanted(modules(**files)[""]) == {("a:b", "", ""), ("c:d", "2", "")}
