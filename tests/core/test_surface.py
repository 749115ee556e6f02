"""Surfaces read from text: modules, aliases, stars, classes, lazy names, stubs."""

from __future__ import annotations

from yoake.core.ecosystems.python.stubs import extend_by_stubs, mark_deprecated, read_versions, stub_surface
from yoake.core.ecosystems.python.surface import module_name, read_package
from yoake.core.values.coordinates import Line
from yoake.core.values.symbols import Surface, SurfaceSymbol


def package(files: dict[str, str]) -> dict[str, SurfaceSymbol]:
    return read_package({name: text.encode() for name, text in files.items()})


def test_a_symbol_lives_at_every_path_users_import_it_from() -> None:
    found = package(
        {
            "lib/__init__.py": "from .core import Thing as T\nfrom lib import core\n",
            "lib/core.py": "class Thing:\n    def go(self, a, *, b=1): pass\n",
        }
    )
    assert found["lib.T"].alias == "lib.core.Thing"
    assert found["lib.core.Thing.go"].signature == "self,a,*,b"


def test_star_imports_bring_public_names_or_those_of_all() -> None:
    found = package(
        {
            "lib/__init__.py": "from .a import *\nfrom .b import *\n",
            "lib/a.py": "x = 1\n_y = 2\n",
            "lib/b.py": "__all__ = ['_z']\nw = 1\n_z = 2\n",
        }
    )
    assert {"lib.x", "lib._z"} <= set(found)
    assert not {"lib._y", "lib.w"} & set(found)


def test_any_branch_may_bind_a_name_but_not_one_for_type_checkers() -> None:
    text = "from typing import TYPE_CHECKING\ntry:\n    import a\nexcept ImportError:\n    b = None\nif TYPE_CHECKING:\n    import c\nelse:\n    d = 1\n"
    found = package({"lib.py": text})
    assert {"lib.a", "lib.b", "lib.d"} <= set(found)
    assert "lib.c" not in found


def test_bases_are_absolute_paths() -> None:
    found = package({"lib.py": "import unittest as u\nclass A(u.TestCase): pass\nclass B(A, Generic[T]): pass\n"})
    assert found["lib.A"].bases == ("unittest.TestCase",)
    assert found["lib.B"].bases[0] == "lib.A"


def test_own_attributes_of_instances_are_members() -> None:
    assert "lib.A.x" in package({"lib.py": "class A:\n    def __init__(self):\n        self.x = 1\n"})


def test_what_a_class_method_sets_on_its_class_is_a_member() -> None:
    """As Django 5.2 sets the client of a test case."""
    text = "class Case:\n    @classmethod\n    def _setup(cls):\n        cls.client = cls.make()\n"
    assert "lib.Case.client" in package({"lib.py": text})


def test_names_for_everybody_but_type_checkers_are_there() -> None:
    text = "import typing as t\nif not t.TYPE_CHECKING:\n    def __getattr__(name):\n        if name == '__version__':\n            return '3'\n"
    assert "lib.__version__" in package({"lib/__init__.py": text})


def test_a_warning_that_is_always_given_marks_as_deprecated() -> None:
    text = "import warnings\ndef a():\n    warnings.warn('x', DeprecationWarning)\ndef b(old=None):\n    if old:\n        warnings.warn('x', DeprecationWarning)\n"
    found = package({"lib.py": text})
    assert found["lib.a"].deprecated
    assert not found["lib.b"].deprecated


def test_names_a_module_answers_for_lazily_are_there_and_deprecated() -> None:
    found = package(
        {"lib.py": "def __getattr__(name):\n    if name != 'utc':\n        raise AttributeError(name)\n    return 1\n"}
    )
    assert found["lib.utc"].deprecated


def test_a_module_that_answers_to_anything_is_not_read_to_the_end() -> None:
    assert package({"lib.py": "def __getattr__(name):\n    return load(name)\n"})["lib"].unread


def test_what_is_deleted_is_gone() -> None:
    assert "lib.a" not in package({"lib.py": "a = 1\ndel a\n"})


def test_newer_syntax_than_ours_is_read() -> None:
    found = package({"lib.py": "type X = int\nclass A[T]:\n    def f[U](self, a: U) -> T: ...\n"})
    assert {"lib.X", "lib.A", "lib.A.f"} <= set(found)


def test_file_names_that_cannot_be_imported_are_left_out() -> None:
    assert module_name("a/b-c.py") is None
    assert module_name("a/__init__.py") == "a"
    assert module_name("a/data.txt") is None


VERSIONS = "# comment\nold: 3.0-3.12\nnew: 3.14-  # why\nboth: 3.0-\n"
STUBS = {
    "old.pyi": b"x: int\n",
    "new.pyi": b"y: int\n",
    "both.pyi": b"import sys\nif sys.version_info >= (3, 14):\n    def now(): ...\nelse:\n    def then(): ...\n",
}


def test_stubs_say_what_changes_and_private_names_stay() -> None:
    versions = read_versions(VERSIONS)
    before, after = stub_surface(STUBS, versions, Line("3.13")), stub_surface(STUBS, versions, Line("3.14"))
    base = Surface(
        Line("3.13"),
        "3.13.0",
        "interpreter",
        "d",
        {
            "both": SurfaceSymbol(kind="m"),
            "both.then": SurfaceSymbol(kind="f"),
            "both._private": SurfaceSymbol(kind="f"),
        },
    )
    made = extend_by_stubs(base, before, after, Line("3.14"), "stubs", "d")
    assert "both._private" in made.symbols
    assert "both.then" not in made.symbols
    assert {"both.now", "new", "new.y"} <= set(made.symbols)
    assert "old" not in made.symbols


def test_deprecation_in_stubs_is_carried_over() -> None:
    stubs = stub_surface(
        {"m.pyi": b"from typing_extensions import deprecated\n@deprecated('x')\ndef f(): ...\n"}, {}, Line("3.13")
    )
    surface = Surface(Line("3.13"), "3.13.0", "interpreter", "d", {"m.f": SurfaceSymbol(kind="f")})
    mark_deprecated(surface, stubs)
    assert surface.symbols["m.f"].deprecated
