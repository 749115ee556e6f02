"""The project's own modules: what an import means inside it, and where a re-exported name comes from."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import TYPE_CHECKING, Final

from yoake.core.contract.locality import Resolved

if TYPE_CHECKING:
    from yoake.core.values.facts import ClassFact, FileFacts

_MAX_HOPS: Final = 8  # re-exports of re-exports; longer chains are loops
_ROOTS: Final = ("", "src", "lib", "python")


class Project:
    """Index of the Python files of one scan."""

    def __init__(self, facts: Mapping[str, FileFacts], module_roots: Iterable[str], *, implicit_relative: bool) -> None:
        self.facts = facts
        self.implicit_relative = implicit_relative
        self.packages = {path.rsplit("/", 1)[0] for path in facts if path.endswith("/__init__.py")}
        self.roots = self._find_roots(module_roots)
        self.module_of: dict[str, str] = {}
        self.file_of: dict[str, str] = {}
        for path in sorted(facts):
            name = self._module_name(path)
            self.module_of[path] = name
            self.file_of.setdefault(name, path)
        self.namespaces = self._namespaces()
        self.tops = self._tops()
        self._absolute: dict[str, Resolved | None] = {}

    def _find_roots(self, module_roots: Iterable[str]) -> set[str]:
        roots: set[str] = set()
        for base in module_roots:
            roots.update("/".join(filter(None, (base, extra))) for extra in _ROOTS)
        return roots

    def _module_name(self, path: str) -> str:
        """Dotted name from the outermost package folder, else from the nearest root."""
        folder, _, file = path.rpartition("/")
        stem = file.removesuffix(".py")
        parts: list[str] = [] if stem == "__init__" else [stem]
        while folder and folder in self.packages:
            folder, _, name = folder.rpartition("/")
            parts.insert(0, name)
        if folder not in self.roots and parts:
            inside = [r for r in self.roots if r in ("", folder) or folder.startswith(f"{r}/")]
            root = max(inside, key=len, default="")
            extra = folder[len(root) :].strip("/")
            if extra and all(part.isidentifier() for part in extra.split("/")):
                parts = [*extra.split("/"), *parts]
        return ".".join(parts)

    def _namespaces(self) -> set[str]:
        found: set[str] = set()
        for name in self.file_of:
            parts = name.split(".")
            found.update(".".join(parts[:i]) for i in range(1, len(parts)))
        return found

    def _tops(self) -> set[str]:
        """Names that an absolute import finds in the project: packages, and modules that stand at a root."""
        found: set[str] = set()
        for path, name in self.module_of.items():
            folder = path.rpartition("/")[0]
            if "." in name or folder in self.roots or folder in self.packages:
                found.add(name.split(".")[0])
        return found

    def is_local(self, name: str) -> bool:
        """Whether an absolute import of this top-level name stays inside the project."""
        return name in self.tops

    def absolute(self, path: str, file: str) -> str | None:
        """A relative path (leading dots) made absolute; None when it leaves the project."""
        if not path.startswith("."):
            return path
        level = len(path) - len(path.lstrip("."))
        parts = self.module_of[file].split(".") if self.module_of[file] else []
        if not file.endswith("/__init__.py") and file != "__init__.py":
            parts = parts[:-1]
        keep = len(parts) - (level - 1)
        if keep < 0:
            return None
        return ".".join([*parts[:keep], *filter(None, [path.lstrip(".")])])

    def _is_own(self, path: str, file: str) -> str | None:
        """The project path that ``path`` means when used in ``file``; None when it is outside."""
        if path.startswith("."):
            found = self.absolute(path, file)
            return found if found is not None else ""
        head = path.split(".", 1)[0]
        package = self._package_of(file) if self.implicit_relative else ""
        if package and (f"{package}.{head}" in self.file_of or f"{package}.{head}" in self.namespaces):
            return f"{package}.{path}"
        return path if self.is_local(head) else None

    def _package_of(self, file: str) -> str:
        """The package whose files this one may name without a dot on old lines; empty where it lies in none, or says that it does not."""
        folder, _, name = file.rpartition("/")
        if folder not in self.packages or self.facts[file].absolute_import:
            return ""
        module = self.module_of[file]
        return module if name == "__init__.py" else module.rpartition(".")[0]

    def target_of(self, path: str, file: str) -> str | None:
        """The file of the project that an import names; None when it leads outside."""
        own = self._is_own(path, file)
        parts = own.split(".") if own else []
        for length in range(len(parts), 0, -1):
            target = self.file_of.get(".".join(parts[:length]))
            if target is not None:
                return target
        return None

    def resolve(self, path: str, file: str, hops: int = 0) -> Resolved | None:
        """Where a use in ``file`` leads outside the project; None when it ends inside it."""
        if hops or path.startswith(".") or self.implicit_relative:
            return self._resolve(path, file, hops)
        if path not in self._absolute:  # such a path means the same in every file
            self._absolute[path] = self._resolve(path, file, 0)
        return self._absolute[path]

    def _resolve(self, path: str, file: str, hops: int) -> Resolved | None:
        own = self._is_own(path, file)
        if own is None:
            return Resolved(path)
        if hops > _MAX_HOPS:
            return None
        parts = own.split(".")
        for length in range(len(parts), 0, -1):
            target = self.file_of.get(".".join(parts[:length]))
            if target is None:
                continue
            if length == len(parts):
                return None
            return self._through(target, parts[length], parts[length + 1 :], hops)
        return None

    def _through(self, file: str, name: str, rest: list[str], hops: int) -> Resolved | None:
        called = name[len(name.rstrip("()")) :]
        targets = self.facts[file].exports.get(name) if called == "()" else None
        if targets is not None:  # what the function gives back
            called = ""
        name = name.removesuffix(called)
        targets = targets or self.facts[file].exports.get(name)
        if targets is None:
            return self._through_stars(file, name, rest, hops)
        guarded = targets[:1] == ("?",)
        found: list[Resolved] = []
        for target in targets[1:] if guarded else targets:
            inner = self.resolve(target, file, hops + 1) if target else None
            if inner is not None:
                found.append(inner)
        if not found:
            return None
        tail = called + "".join(f".{part}" for part in rest)
        chosen = found[0]
        return Resolved(
            f"{chosen.path}{tail}",
            chosen.path,
            guarded or chosen.guarded,
            tuple(f"{other.path}{tail}" for other in found[1:]) + chosen.others,
        )

    def _through_stars(self, file: str, name: str, rest: list[str], hops: int) -> Resolved | None:
        for star in self.facts[file].stars:
            inner = self.resolve(f"{star}.{name}" if not star.endswith(".") else f"{star}{name}", file, hops + 1)
            if inner is not None and self._is_own(star, file) is not None:
                return Resolved(
                    "".join([inner.path, *(f".{p}" for p in rest)]), inner.path, inner.guarded, inner.others
                )
        return None

    def find_class(self, path: str, file: str) -> tuple[str, str, ClassFact] | None:
        """(file, qualified name, class) of a project class that ``path`` names in ``file``."""
        for _ in range(_MAX_HOPS):
            if path.startswith(":"):
                known = self.facts[file].classes.get(path[1:])
                return (file, path[1:], known) if known else None
            own = self._is_own(path, file)
            if own is None:
                return None
            step = self._step_to_class(own)
            if step is None:
                return None
            file, path = step
        return None

    def _step_to_class(self, own: str) -> tuple[str, str] | None:
        parts = own.split(".")
        for length in range(len(parts) - 1, 0, -1):
            target = self.file_of.get(".".join(parts[:length]))
            if target is None:
                continue
            name = ".".join(parts[length:])
            if name in self.facts[target].classes:
                return target, f":{name}"
            exported = self.facts[target].exports.get(parts[length], ())
            onward = [entry for entry in exported if entry and entry != "?"]
            if onward:
                return target, ".".join([onward[-1], *parts[length + 1 :]])
            for star in self.facts[target].stars:
                joint = "" if star.endswith(".") else "."
                return target, f"{star}{joint}{name}"
        return None
