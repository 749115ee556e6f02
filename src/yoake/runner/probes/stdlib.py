"""Runs under the interpreter that is captured (2.7 and 3.x alike) and prints its standard library as JSON.

Nothing but the interpreter's own modules is imported. One line of JSON on standard output:
{"release": "3.8.18", "symbols": {path: [kind, alias, signature, deprecated, unread, type]}}
"""
import ast
import inspect
import json
import os
import pkgutil
import re
import sys
import types
import warnings

SKIP = re.compile(
    r"^(this|antigravity|idlelib|turtledemo|__main__|__phello__|site|sitecustomize|usercustomize)(\.|$)"
    r"|\.(tests?|_bundled|__main__)(\.|$)|^(test)\.(?!support(\.|$))|^lib2to3\.(pgen2\.conv|tests)"
    r"|^_sysconfigdata|^(_pyrepl|pip|setuptools|pkg_resources|easy_install|wheel|_distutils_hack)(\.|$)"
    r"|^(ensurepip|venv)\.|^config-|^distutils\.command\.wininst|^zzdummy"
)
out = sys.stdout
PY2 = sys.version_info[0] == 2
class_types = (type, types.ClassType) if PY2 else (type,)
builtin_name = "__builtin__" if PY2 else "builtins"


def module_names():
    names = set(sys.builtin_module_names)
    lib = os.path.dirname(os.__file__)
    roots = [lib, os.path.join(lib, "lib-dynload")]
    names.update(getattr(sys, "stdlib_module_names", ()))
    for info in pkgutil.iter_modules(roots):
        names.add(info[1])
    found = set()
    for name in sorted(names):
        if SKIP.search(name):
            continue
        found.add(name)
        folder = os.path.join(lib, name)
        if os.path.isfile(os.path.join(folder, "__init__.py")):
            found.update(submodules(folder, name))
    return sorted(found)


def submodules(folder, prefix):
    for info in pkgutil.iter_modules([folder]):
        name = prefix + "." + info[1]
        if SKIP.search(name):
            continue
        yield name
        if info[2]:
            for deeper in submodules(os.path.join(folder, info[1]), name):
                yield deeper


def exists_in_file(name):
    lib = os.path.dirname(os.__file__)
    base = os.path.join(lib, *name.split("."))
    return os.path.isfile(base + ".py") or os.path.isdir(base)


def signature_of(obj):
    try:
        if PY2:
            target = obj.__init__ if isinstance(obj, class_types) else obj
            spec = inspect.getargspec(target)
            parts = list(spec.args)
            if spec.varargs:
                parts.append("*" + spec.varargs)
            if spec.keywords:
                parts.append("**" + spec.keywords)
            return ",".join(str(p) for p in parts)
        parts = []
        star = False
        for p in inspect.signature(obj).parameters.values():
            if p.kind is p.VAR_POSITIONAL:
                parts.append("*" + p.name)
                star = True
            elif p.kind is p.VAR_KEYWORD:
                parts.append("**" + p.name)
            elif p.kind is p.POSITIONAL_ONLY:
                parts.append("/" + p.name)
            elif p.kind is p.KEYWORD_ONLY and not star:
                parts.append("*")
                parts.append(p.name)
                star = True
            else:
                parts.append(p.name)
        return ",".join(parts)
    except Exception:
        return None


def warns(body):
    """Whether a body warns of its own removal whatever the arguments: a statement at its first level."""
    for node in body:
        call = getattr(node, "value", None)
        if not (isinstance(node, ast.Expr) and isinstance(call, ast.Call)):
            continue
        text = ast.dump(call)
        if "warn" in text and ("DeprecationWarning" in text or "'_deprecated'" in text):
            return True
    return False


def deprecated_in(path):
    try:
        with open(path, "rb") as handle:
            tree = ast.parse(handle.read())
    except Exception:
        return set(), False
    found = set()

    def walk(node, prefix):
        for child in getattr(node, "body", []):
            if isinstance(child, ast.ClassDef):
                walk(child, prefix + child.name + ".")
            elif isinstance(child, ast.FunctionDef) and warns(child.body):
                owner = prefix + child.name
                found.add(prefix[:-1] if child.name in ("__init__", "__new__") and prefix else owner)

    walk(tree, "")
    return found, warns(tree.body)


def source_of(module):
    path = getattr(module, "__file__", None) or ""
    if path.endswith((".pyc", ".pyo")):
        path = path[:-1]
    return path if path.endswith(".py") and os.path.isfile(path) else None


def lazy_names(module, source):
    """Names that only a module-level __getattr__ answers: asked one by one."""
    if PY2 or not source or not hasattr(module, "__getattr__"):
        return {}
    with open(source, "rb") as handle:
        words = set(re.findall(r"[A-Za-z_][A-Za-z0-9_]*", handle.read().decode("utf-8", "replace")))
    for value in list(vars(module).values()):  # collections 3.7 answers for all that _collections_abc offers
        if isinstance(value, type(module)):
            words.update(dir(value))
        elif isinstance(value, (set, frozenset, tuple, list, dict)):  # sqlite3 3.12 answers for what such a list names
            words.update(entry for entry in value if isinstance(entry, str))
    found = {}
    for word in sorted(words - set(dir(module))):
        if word.startswith("__"):
            continue
        with warnings.catch_warnings(record=True) as caught:
            warnings.simplefilter("always")
            try:
                value = getattr(module, word)
            except BaseException:
                continue
        found[word] = (value, any(issubclass(w.category, (DeprecationWarning, FutureWarning)) for w in caught))
    return found


def home_of(obj):
    module = getattr(obj, "__module__", None)
    name = getattr(obj, "__qualname__", None) or getattr(obj, "__name__", None)
    if not isinstance(module, str) or not isinstance(name, str) or "<" in name:
        return None
    holder = sys.modules.get(module)
    for part in name.split("."):
        holder = getattr(holder, part, None)
    return module + "." + name if holder is obj else None


def describe(path, obj, deprecated, symbols):
    if isinstance(obj, types.ModuleType):
        symbols[path] = ["m", obj.__name__ if obj.__name__ != path else None, None, deprecated, False, None]
        return
    is_class = isinstance(obj, class_types)
    home = home_of(obj) if is_class or callable(obj) else None
    kind = "c" if is_class else ("f" if callable(obj) else "v")
    alias = home if home and home != path else None
    deprecated = deprecated or bool(getattr(obj, "__deprecated__", None))
    kept = None
    if kind == "v":
        owner = type(obj)
        if owner.__module__ not in (builtin_name, "types"):
            kept = home_of(owner)
    symbols[path] = [kind, alias, None if alias else signature_of(obj) if kind in "cf" else None, deprecated, False, kept]
    if is_class and not alias:
        members(path, obj, symbols)


def members(path, cls, symbols):
    for name in dir(cls):
        if name.startswith("__"):
            continue
        try:
            member = inspect.getattr_static(cls, name) if not PY2 else getattr(cls, name)
            value = getattr(cls, name, member)
        except BaseException:
            continue
        signature = signature_of(value) if inspect.isroutine(value) else None
        kind = "f" if inspect.isroutine(value) else ("c" if isinstance(value, class_types) else "v")
        symbols[path + "." + name] = [kind, None, signature, bool(getattr(value, "__deprecated__", None)), False, None]


def main():
    symbols = {}
    warnings.simplefilter("ignore")
    modules = {}
    for name in module_names():
        sys.stdout = sys.stderr
        try:
            __import__(name)
            modules[name] = sys.modules[name]
        except BaseException:
            if exists_in_file(name):
                symbols[name] = ["m", None, None, False, True, None]
        sys.stdout = out
    for name, module in sorted(modules.items()):
        source = source_of(module)
        deprecated, whole = deprecated_in(source) if source else (set(), False)
        real = getattr(module, "__name__", name)
        symbols[name] = ["m", real if real != name and real in modules else None, None, whole, False, None]
        for attribute in dir(module):
            if attribute.startswith("__"):
                continue
            try:
                value = getattr(module, attribute)
            except BaseException:
                continue
            path = name + "." + attribute
            if path not in modules:
                describe(path, value, attribute in deprecated, symbols)
        for attribute, (value, warned) in lazy_names(module, source).items():
            describe(name + "." + attribute, value, warned, symbols)
        for dotted in deprecated:
            if name + "." + dotted in symbols:
                symbols[name + "." + dotted][3] = True
    out.write(json.dumps({"release": sys.version.split()[0], "symbols": symbols}))


main()
