"""Regular expressions of addresses as templates."""

from __future__ import annotations

import re
from typing import Final

_NAMED: Final = re.compile(r"\?P?<(\w+)>")
_QUANTIFIER: Final = re.compile(r"(?:[?*+]|\{\d*,?\d*\})[?+]?")


def regex_template(pattern: str) -> tuple[str, frozenset[str]]:
    """A regular expression as (template, parameters that may hold slashes). Of alternatives the first is taken; what is optional is
    there."""
    scan = _Scan(pattern)
    found = scan.sequence()
    return found, frozenset(scan.rest)


class _Scan:
    """Reads a regular expression from left to right."""

    def __init__(self, pattern: str) -> None:
        self.pattern = pattern
        self.at = 0
        self.unnamed = 0
        self.rest: set[str] = set()

    def sequence(self) -> str:
        """Everything up to the end, or to the parenthesis that closes."""
        out: list[str] = []
        skipping = False
        while self.at < len(self.pattern):
            sign = self.pattern[self.at]
            if sign == ")":
                break
            if sign == "|":
                skipping = True
                self.at += 1
                continue
            part = self._one(sign)
            if not skipping:
                out.append(part)
        return "".join(out)

    def _one(self, sign: str) -> str:
        self.at += 1
        if sign in "^$":
            return ""
        if sign == "\\":
            return self._escaped()
        if sign == "(":
            return self._group()
        if sign == "[":
            return self._set()
        if sign == ".":
            return self._parameter("") if self._quantifier() else "."
        if sign in "?*+":
            return ""
        self._quantifier()
        return sign

    def _quantifier(self) -> str:
        found = _QUANTIFIER.match(self.pattern, self.at)
        if found is None or not found.group():
            return ""
        self.at = found.end()
        return found.group()

    def _escaped(self) -> str:
        letter = self.pattern[self.at : self.at + 1]
        self.at += 1
        if letter in "AZbB":
            return ""
        if letter in "dwsDWS":
            self._quantifier()
            return self._parameter("")
        self._quantifier()
        return letter

    def _parameter(self, name: str) -> str:
        self.unnamed += 0 if name else 1
        return f"{{{name or f'arg{self.unnamed}'}}}"

    def _set(self) -> str:
        start = self.at
        if self.pattern[self.at : self.at + 1] == "^":
            self.at += 1
        if self.pattern[self.at : self.at + 1] == "]":
            self.at += 1
        while self.at < len(self.pattern) and self.pattern[self.at] != "]":
            self.at += 2 if self.pattern[self.at] == "\\" else 1
        inner = self.pattern[start : self.at]
        self.at += 1
        self._quantifier()
        return inner if len(inner) == 1 else self._parameter("")

    def _group(self) -> str:
        named = _NAMED.match(self.pattern, self.at)
        if named is not None:
            self.at = named.end()
            start = self.at
            self._inside()
            if _may_hold_slash(self.pattern[start : self.at - 1]):
                self.rest.add(named.group(1))
            return self._parameter(named.group(1))
        if self.pattern.startswith("?", self.at):
            silent = self.pattern.startswith("?:", self.at)
            looking = re.compile(r"\?(?:[=!#]|<[=!])").match(self.pattern, self.at)
            self.at = self.pattern.find(":", self.at) + 1 if silent else self.at + 1
            if looking:
                self._inside()
                return ""
            if not silent:  # flags
                self._inside()
                return ""
            inner = self.sequence()
            self.at += 1
            self._quantifier()
            return inner
        start = self.at
        self._inside()
        name = self._parameter("")
        if _may_hold_slash(self.pattern[start : self.at - 1]):
            self.rest.add(name.strip("{}"))
        return name

    def _inside(self) -> None:
        """Goes behind the parenthesis that closes a group, and a quantifier there."""
        depth = 1
        while self.at < len(self.pattern) and depth:
            sign = self.pattern[self.at]
            if sign == "\\":
                self.at += 1
            elif sign == "[":
                self.at += 1
                counted = self.unnamed
                self._set()
                self.unnamed = counted
                continue
            depth += (sign == "(") - (sign == ")")
            self.at += 1
        self._quantifier()


def _may_hold_slash(inner: str) -> bool:
    return bool(re.search(r"(?<!\\)\.[*+]|\[[^\]]*/[^\]]*\]", inner)) or (
        "[^" in inner and "/" not in inner and "[^/" not in inner
    )
