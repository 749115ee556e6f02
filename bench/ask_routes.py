"""Asks a running framework for its routes, inside the application's own environment: one line a route, METHOD and template.

    python ask_routes.py flask|fastapi|django SUBJECT

``SUBJECT`` is an expression with modules by ``module:expression`` for Flask and FastAPI, and a module of settings for Django.
"""

import importlib
import os
import re
import sys


def flask(subject):
    """The URL map of an application."""
    module, _, expression = subject.partition(":")
    application = eval(expression, vars(importlib.import_module(module)))
    named = re.compile(r"<(?:[^<>:]+(?:\([^>]*\))?:)?(\w+)>")
    for rule in application.url_map.iter_rules():
        for method in set(rule.methods or ()) - {"HEAD", "OPTIONS"}:
            print(method, named.sub(r"{\1}", rule.rule))


def fastapi(subject):
    """The routes of an application and of what is mounted in it."""
    module, _, expression = subject.partition(":")
    listed(eval(expression, vars(importlib.import_module(module))).routes, "")


def listed(routes, prefix):
    for route in routes:
        included = getattr(route, "original_router", None)  # newer releases keep what was included as it is
        if included is not None:
            listed(included.routes, prefix + getattr(getattr(route, "include_context", None), "prefix", ""))
            continue
        inner, methods = getattr(route, "routes", None), getattr(route, "methods", None)
        path = re.sub(r"\{(\w+):\w+\}", r"{\1}", prefix + getattr(route, "path", ""))
        if inner is not None and not methods:
            listed(inner, path)
        elif methods:
            for method in set(methods) - {"OPTIONS"} - ({"HEAD"} if "GET" in methods else set()):
                print(method, path)
        elif "WebSocket" in type(route).__name__:
            print("WEBSOCKET", path)


def django(subject):
    """The resolver. It knows no methods."""
    os.environ["DJANGO_SETTINGS_MODULE"] = subject
    import django

    django.setup()
    from django.contrib.admindocs.views import simplify_regex
    from django.urls import get_resolver
    from django.urls.resolvers import LocalePrefixPattern, RoutePattern

    def written(pattern):
        if isinstance(pattern, LocalePrefixPattern):
            return "{language}/"
        if isinstance(pattern, RoutePattern):
            return re.sub(r"<(?:[^>:]+:)?(\w+)>", r"{\1}", str(pattern))
        return re.sub(r"<(\w+)>", r"{\1}", simplify_regex(pattern.regex.pattern).lstrip("/"))

    def walk(patterns, prefix):
        for each in patterns:
            path = prefix + written(each.pattern)
            if hasattr(each, "url_patterns"):
                walk(each.url_patterns, path)
            else:
                print("ANY", "/" + path.lstrip("/"))

    walk(get_resolver().url_patterns, "")


if __name__ == "__main__":
    sys.path.insert(0, os.getcwd())
    {"flask": flask, "fastapi": fastapi, "django": django}[sys.argv[1]](sys.argv[2])
