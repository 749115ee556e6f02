"""Runs under the old interpreter: an independent walk with ``ast`` over a folder. Shares nothing with ``yoake.core``.

Prints one JSON list of [file, line, symbol, guarded] for every imported name and attribute chain on an imported name.
"""

import ast
import json
import os
import sys

CATCHING = {"ImportError", "ModuleNotFoundError", "AttributeError", "Exception", "NameError", "BaseException"}
SPEAKING = ("version_info", "PY2", "PY3", "hasattr", "TYPE_CHECKING", "VERSION", "hexversion", "version", "six")


def chain(node):
    names = []
    while isinstance(node, ast.Attribute):
        names.append(node.attr)
        node = node.value
    return (node.id, names[::-1]) if isinstance(node, ast.Name) else (None, [])


def catches(handler):
    if handler.type is None:
        return True
    types = handler.type.elts if isinstance(handler.type, ast.Tuple) else [handler.type]
    return any(isinstance(t, ast.Name) and t.id in CATCHING for t in types)


class Walk(ast.NodeVisitor):
    def __init__(self, source):
        self.found, self.bound, self.spoilt, self.guard, self.lines = [], {}, set(), 0, source.splitlines()

    def add(self, line, symbol):
        self.found.append((line, symbol, self.guard > 0))

    def visit_Import(self, node):
        for alias in node.names:
            self.add(node.lineno, alias.name)
            self.bind(
                alias.asname or alias.name.split(".")[0], alias.name if alias.asname else alias.name.split(".")[0]
            )

    def bind(self, name, path):
        if name in self.bound and self.bound[name] != path:
            self.spoilt.add(name)
        self.bound[name] = path
        if self.guard:
            self.spoilt.add(name)

    def visit_ImportFrom(self, node):
        for alias in node.names:
            if node.level or alias.name == "*":
                if alias.name != "*":
                    self.spoilt.add(alias.asname or alias.name)
                continue
            self.add(node.lineno, node.module + "." + alias.name)
            self.bind(alias.asname or alias.name, node.module + "." + alias.name)

    def visit_Try(self, node):
        caught = any(catches(h) for h in node.handlers)
        self.guard += caught
        for part in (node.body, node.handlers, node.orelse):
            for child in part:
                self.visit(child)
        self.guard -= caught
        for child in node.finalbody:
            self.visit(child)

    def visit_If(self, node):
        test = segment(self.lines, node.test)
        speaks = any(word in test for word in SPEAKING)
        self.visit(node.test)
        self.guard += speaks
        for child in node.body + node.orelse:
            self.visit(child)
        self.guard -= speaks

    visit_IfExp = lambda self, node: self.visit_If_expression(node)  # noqa: E731

    def visit_If_expression(self, node):
        test = segment(self.lines, node.test)
        self.guard += any(word in test for word in SPEAKING)
        self.generic_visit(node)
        self.guard -= any(word in test for word in SPEAKING)


class Names(ast.NodeVisitor):
    """Second pass: attribute chains on names that only ever mean one import."""

    def __init__(self, walk):
        self.walk = walk

    def visit_Attribute(self, node):
        root, names = chain(node)
        if root in self.walk.bound and root not in self.walk.spoilt and isinstance(node.ctx, ast.Load):
            path = self.walk.bound[root]
            for i in range(1, len(names) + 1):
                self.walk.later.append((node.lineno, ".".join([path] + names[:i])))
            return
        self.generic_visit(node)


def spoil(tree, walk):
    for node in ast.walk(tree):
        if isinstance(node, (ast.Name,)) and isinstance(node.ctx, (ast.Store, ast.Del)):
            walk.spoilt.add(node.id)
        elif isinstance(node, ast.arg):
            walk.spoilt.add(node.arg)
        elif isinstance(node, (ast.FunctionDef, ast.ClassDef, ast.AsyncFunctionDef)):
            walk.spoilt.add(node.name)
        elif isinstance(node, ast.ExceptHandler) and node.name:
            walk.spoilt.add(node.name)


def segment(lines, node):
    """The lines of a node: enough to see what a test speaks of."""
    return " ".join(lines[node.lineno - 1 : (node.end_lineno or node.lineno)])


def guarded_lines(tree, source):
    lines, lines_of = set(), source.splitlines()
    for node in ast.walk(tree):
        hit = isinstance(node, ast.Try) and any(catches(h) for h in node.handlers)
        if isinstance(node, (ast.If, ast.IfExp)):
            test = segment(lines_of, node.test)
            hit = any(word in test for word in SPEAKING)
        if hit:
            lines.update(range(node.lineno, (node.end_lineno or node.lineno) + 1))
        if isinstance(node, (ast.FunctionDef, ast.AsyncFunctionDef)):
            for i, child in enumerate(node.body):
                if isinstance(child, ast.If) and isinstance(child.body[-1], (ast.Return, ast.Raise)):
                    test = segment(lines_of, child.test)
                    if any(word in test for word in SPEAKING):
                        lines.update(range(child.lineno, (node.end_lineno or node.lineno) + 1))
    return lines


def main():
    root, rows = sys.argv[1], []
    for folder, folders, names in os.walk(root):
        for name in names:
            if not name.endswith(".py"):
                continue
            path = os.path.join(folder, name)
            if os.path.islink(path):
                continue
            try:
                source = open(path, encoding="utf-8").read()
                tree = ast.parse(source)
            except (SyntaxError, ValueError, OSError, RecursionError):
                continue
            walk = Walk(source)
            walk.later = []
            walk.visit(tree)
            spoil(tree, walk)
            Names(walk).visit(tree)
            quiet = guarded_lines(tree, source)
            relative = os.path.relpath(path, root).replace(os.sep, "/")
            for line, symbol, guarded in walk.found:
                rows.append([relative, line, symbol, guarded or line in quiet])
            for line, symbol in walk.later:
                rows.append([relative, line, symbol, line in quiet])
    json.dump(rows, sys.stdout)


main()
