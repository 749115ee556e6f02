"""The rules of a gateway as a configuration for nginx, and where nginx cannot do the same, words that say so."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from typing import Final
from urllib.parse import urlsplit

from yoake.core.crossing.rules import CrossingRules, RouteRule, Standing
from yoake.core.values.routes import ANY, Route

_PARAMETER: Final = re.compile(r"\{([^{}]*)\}")
_UNSAFE: Final = re.compile(r"[\s\"';{}$\\]")


def nginx_configuration(rules: CrossingRules, port: int) -> str:
    """A whole file for the ``http`` block of nginx. Shares of callers go by the caller's cookie, as in the gateway, but the places
    of callers are counted otherwise, so one caller may be on another side there."""
    shares = sorted({rule.share for rule in rules.routes if rule.standing is Standing.SHARED})
    return "\n".join(
        [
            "# Written from the rules of a crossing; what is changed here is lost when they are written again.",
            *_upstreams(rules),
            "",
            *_standings(rules),
            "",
            *_testers(rules),
            "",
            *_shares(rules, shares),
            "",
            *_choice(rules, shares),
            *(_ways(rules) if _speaks_tls(rules) else ()),
            "",
            *_server(rules, port),
            "",
        ]
    )


def _upstreams(rules: CrossingRules) -> Iterator[str]:
    old, new = urlsplit(rules.old), urlsplit(rules.new)
    alike = not _speaks_tls(rules)  # nginx asks the other side in the way and under the name of the first
    for name, first, second in (
        ("crossing_old", old, None),
        ("crossing_new", new, old if alike else None),
        ("crossing_shared_old", old, new if alike else None),
    ):
        yield f"upstream {name} {{"
        yield f"    server {_place(first.netloc, first.scheme)} max_fails=1 fail_timeout=2s;"
        if second is not None:
            yield f"    server {_place(second.netloc, second.scheme)} backup;  # answers when the first cannot be reached"
        yield "    keepalive 64;"
        yield "}"


def _speaks_tls(rules: CrossingRules) -> bool:
    return "https" in (urlsplit(rules.old).scheme, urlsplit(rules.new).scheme)


def _ways(rules: CrossingRules) -> Iterator[str]:
    """``$crossing_way`` and ``$crossing_name``: how a side is asked, and the name that its certificate has."""
    old, new = urlsplit(rules.old), urlsplit(rules.new)
    for variable, first, second in (
        ("way", old.scheme, new.scheme),
        ("name", old.hostname or "", new.hostname or ""),
    ):
        yield f"map $crossing_upstream $crossing_{variable} {{"
        yield f'    default "{first}";'
        yield f'    crossing_new "{second}";'
        yield "}"


def _place(netloc: str, scheme: str) -> str:
    host = netloc.rsplit("@", 1)[-1]
    return host if re.search(r":\d+$", host) else f"{host}:{443 if scheme == 'https' else 80}"


def _standings(rules: CrossingRules) -> Iterator[str]:
    """``$crossing_route``: how the route of a request stands; the first pattern that fits wins, so what is written out comes first."""
    yield 'map "$request_method $uri" $crossing_route {'
    yield "    default old;"
    for rule in sorted(rules.routes, key=lambda rule: _specific(rule.route)):
        standing = rule.standing.value
        if rule.standing is Standing.SHARED:
            standing = f"shared_{_named(rule.share)}"
        elif (
            rule.standing is Standing.MIRRORED
            and not rule.may_be_repeated(rule.route.method)
            and rule.route.method != ANY
        ):
            standing = "old"
        yield f'    "~^{_pattern(rule)}$" {standing};'
    yield "}"


def _specific(route: Route) -> tuple[int, int, int, str]:
    segments = route.path.split("/")
    return (
        1 if route.rest else 0,
        sum(1 for segment in segments if "{" in segment),
        -len(segments),
        route.name,
    )


def _pattern(rule: RouteRule) -> str:
    route = rule.route
    parts = _PARAMETER.split(route.path.rstrip("/"))
    written = "".join(
        _quoted(part) if at % 2 == 0 else (".+" if part in route.rest else "[^/]+") for at, part in enumerate(parts)
    )
    return f"{_methods(rule)} {written}/?"


def _methods(rule: RouteRule) -> str:
    if rule.route.method == "GET" or (
        rule.route.method == ANY and rule.standing is Standing.MIRRORED and not rule.safe
    ):
        return "(?:GET|HEAD)"
    return "[A-Z]+" if rule.route.method == ANY else rule.route.method


def _quoted(text: str) -> str:
    """Literal text of a pattern inside quotes of nginx."""
    return re.sub(
        r"[^A-Za-z0-9/_~,!&=:@-]", lambda m: f"\\x{ord(m.group()):02x}" if ord(m.group()) < 256 else ".", text
    )


def _testers(rules: CrossingRules) -> Iterator[str]:
    header = "$http_" + re.sub(r"[^a-z0-9]", "_", rules.tester_header.lower())
    yield f'map "{header}:$cookie_{rules.tester_cookie}" $crossing_asked {{'
    yield '    default "";'
    yield '    "~^old:" old;'
    yield '    "~^new:" new;'
    yield '    ":old" old;'
    yield '    ":new" new;'
    yield "}"


def _shares(rules: CrossingRules, shares: Iterable[float]) -> Iterator[str]:
    cookie = f"$cookie_{rules.caller_cookie}"
    yield f'map "{cookie}" $crossing_caller {{'
    yield '    "" $request_id;'
    yield f"    default {cookie};"
    yield "}"
    yield f'map "$crossing_route:{cookie}" $crossing_cookie {{'
    yield '    default "";'
    yield f'    "~^shared_[0-9_]+:$" "{rules.caller_cookie}=$request_id; Path=/; Max-Age=31536000; HttpOnly; SameSite=Lax";'
    yield "}"
    for share in shares:
        yield f'split_clients "{_plain(rules.application)}$crossing_caller" $crossing_bucket_{_named(share)} {{'
        if 0 < share < 100:
            yield f"    {share:g}% new;"
            yield "    * old;"
        else:
            yield f"    * {'new' if share >= 100 else 'old'};"
        yield "}"


def _choice(rules: CrossingRules, shares: Iterable[float]) -> Iterator[str]:
    yield 'map "$crossing_asked:$crossing_route" $crossing_upstream {'
    yield "    default crossing_old;"
    yield '    "~^new:" crossing_new;'
    yield '    "~^old:" crossing_old;'
    yield '    ":new" crossing_new;'
    for share in shares:
        yield f'    ":shared_{_named(share)}" $crossing_shared_{_named(share)};'
    yield "}"
    for share in shares:
        yield f"map $crossing_bucket_{_named(share)} $crossing_shared_{_named(share)} {{"
        yield "    new crossing_new;"
        yield "    default crossing_shared_old;"
        yield "}"
    yield 'map "$crossing_asked:$crossing_route" $crossing_mirrors {'
    yield "    default 0;"
    yield '    ":mirrored" 1;'
    yield "}"
    yield "map $http_upgrade $crossing_connection {"
    yield '    "" "";'
    yield "    default upgrade;"
    yield "}"
    yield "map $http_x_crossing_hop $crossing_loops {"
    yield "    default 0;"
    yield f'    "{_plain(rules.application)}" 1;'
    yield "}"


def _server(rules: CrossingRules, port: int) -> Iterator[str]:
    old, new = urlsplit(rules.old), urlsplit(rules.new)
    tls = _speaks_tls(rules)
    way = "$crossing_way" if tls else old.scheme
    common = [
        *(["        proxy_ssl_server_name on;"] if tls else []),
        "        proxy_http_version 1.1;",
        "        proxy_set_header Host $http_host;",
        "        proxy_set_header X-Forwarded-For $proxy_add_x_forwarded_for;",
        "        proxy_set_header X-Forwarded-Proto $scheme;",
        "        proxy_set_header X-Forwarded-Host $http_host;",
        f'        proxy_set_header X-Crossing-Hop "{_plain(rules.application)}";',
        "        proxy_set_header Upgrade $http_upgrade;",
        "        proxy_set_header Connection $crossing_connection;",
        f"        proxy_connect_timeout {rules.limits.connect:g}s;",
        f"        proxy_read_timeout {rules.limits.answer:g}s;",
        f"        proxy_send_timeout {rules.limits.answer:g}s;",
        "        proxy_buffering off;  # events pass as they come",
        "        proxy_request_buffering off;  # uploads stream",
    ]
    yield "server {"
    yield f"    listen {port};"
    yield "    client_max_body_size 0;"
    yield "    if ($crossing_loops) { return 508; }"
    yield "    location / {"
    yield "        error_page 418 = @crossing_mirrored;"
    yield "        recursive_error_pages on;"
    yield "        if ($crossing_mirrors) { return 418; }"
    yield from common
    yield from _named_as("$crossing_name", tls=tls)
    yield "        proxy_next_upstream error timeout;"
    yield "        add_header Set-Cookie $crossing_cookie always;"
    yield f"        proxy_pass {way}://$crossing_upstream;"
    yield "    }"
    yield "    location @crossing_mirrored {"
    yield "        mirror /crossing-mirror;"
    yield from common[:-1]
    yield from _named_as(old.hostname or "", tls=tls)
    yield f"        proxy_pass {old.scheme}://crossing_old;"
    yield "    }"
    yield "    location = /crossing-mirror {"
    yield "        internal;"
    yield from common[:-1]
    yield from _named_as(new.hostname or "", tls=tls)
    yield f"        proxy_pass {new.scheme}://crossing_new$request_uri;"
    yield "    }"
    yield "}"


def _named_as(name: str, *, tls: bool) -> Iterator[str]:
    """What the certificate of a side is asked for; nginx does not check it unless it is told whom to trust."""
    if tls:
        yield f"        proxy_ssl_name {name};"


def _named(share: float) -> str:
    return f"{share:g}".replace(".", "_")


def _plain(text: str) -> str:
    return _UNSAFE.sub("_", text)
