"""Names that a package’s text does not show: stars, lists made by code, modules that answer for any name."""

from __future__ import annotations

from yoake.core.ecosystems.python.surface import read_package
from yoake.core.values.symbols import SurfaceSymbol


def surface(**files: str) -> dict[str, SurfaceSymbol]:
    return read_package({path.replace("__", "/") + ".py": text.encode() for path, text in files.items()})


def test_a_star_from_outside_leaves_the_module_open_and_passes_on() -> None:
    found = surface(
        lib__a="from ._speedups import *\n", lib__b="from lib.a import *\n", lib__c="from lib.a import known\n"
    )
    assert found["lib.a"].unread
    assert found["lib.b"].unread
    assert not found["lib.c"].unread


def test_a_listed_name_that_comes_from_a_star_is_offered() -> None:
    found = surface(
        lib__core="__all__ = ['nan', 'made']\nfrom ._umath import *\nmade = 1\n", lib__top="from lib.core import *\n"
    )
    assert found["lib.top.nan"].alias == "lib.core.nan"
    assert not found["lib.top"].unread


def test_a_list_that_grows_by_code_is_open_and_one_that_grows_by_lists_is_not() -> None:
    grown = surface(
        lib__a="__all__ = ['x']\nx = 1\n__all__ += ['y']\ny = 1\n",
        lib__b="from lib import a\n__all__ = []\n__all__ += a.__all__\nfrom lib.a import *\n",
        lib__c="__all__ = []\nextend_all(other)\n",
        lib__d="from lib.b import *\n",
        lib__e="from lib.c import *\n",
    )
    assert {"lib.d.x", "lib.d.y"} <= set(grown)
    assert not grown["lib.d"].unread
    assert grown["lib.e"].unread


def test_a_module_that_answers_for_any_name_is_open_unless_it_lists_what_it_offers() -> None:
    found = surface(
        lib__any="def __getattr__(name):\n    return import_module(TABLE[name])\n",
        lib__made="__getattr__ = migrate(__name__)\n",
        lib__listed="__all__ = ['Model']\ndef __getattr__(name):\n    return import_module(TABLE[name])\n",
        lib__old="def __getattr__(name):\n    if name == 'Ancient':\n        return 1\n    raise AttributeError(name)\n",
    )
    assert found["lib.any"].unread
    assert found["lib.made"].unread
    assert not found["lib.listed"].unread
    assert found["lib.listed.Model"].unread
    assert found["lib.old.Ancient"].deprecated
    assert not found["lib.old"].unread


def test_the_module_beside_its_stub_is_what_counts() -> None:
    found = read_package({"lib/a.py": b"real = 1\n", "lib/a.pyi": b"typed: int\n", "lib/c.pyi": b"made: int\n"})
    assert "lib.a.real" in found
    assert "lib.a.typed" not in found
    assert "lib.c.made" in found
