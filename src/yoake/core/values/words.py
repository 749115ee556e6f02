"""Closed words: what a field of a record may say, and nothing else. DESIGN 2 says what each means."""

from __future__ import annotations

from typing import Literal

Kind = Literal["removed", "moved", "reshaped", "behaviour", "deprecated", "package", "toolchain", "setting", "leftover"]
"""Of a finding."""
Level = Literal["error", "warning", "note"]
"""error: fails at or before the destination; warning: may fail; note: deprecated or guarded."""
Confidence = Literal["certain", "likely", "possible"]
CheckState = Literal["holds", "fails", "unknown"]
VerdictState = Literal["holds", "fails", "deprecated", "unknown"]
"""Of one use against the destination."""
CheckSort = Literal["usage", "package", "toolchain", "setting", "unread_file"]
Grade = Literal["hard", "stated", "observed", "tried", "none"]
"""What a claim about a package rests on: metadata, what its project claims, its code as Yoake reads it, or that it was really run."""
WindowState = Literal["now", "hop", "switch", "unknown"]
FileState = Literal["scanned", "skipped", "failed", "unread"]
FileRole = Literal["source", "test", "vendored", "generated"]
ForeignRole = Literal["vendored", "generated"]
"""Of a file that nobody here writes: somebody else's, or put together by a tool."""
SettledState = Literal["keeps", "change", "none", "unknown"]
"""Of a package at a stage: whether today's range admits what is taken there, has to move, has nothing to move to, or is not known."""
Strategy = Literal[
    "direct", "hop-by-hop", "dual-run", "parallel-copy", "piecewise", "fresh-base", "rework-first", "hold", "retire"
]
"""How a set of modules travels, or does not."""
Objective = Literal["work", "stages", "danger"]
"""What a path is the best for."""
ConstraintGrade = Literal["hard", "tried", "stated", "observed", "asked"]
"""Who says that two lines do not go together: metadata, a trial, a project's claim, its code, or a person's wish."""
StatedHow = Literal["pin", "range", "classifier", "container", "ci", "lock", "said", "inferred", "not stated"]
"""By what today's line is known."""
JobState = Literal["waiting", "running", "done", "failed", "stopped"]
StepState = Literal["open", "reopened", "not seen", "closed"]
SourceKind = Literal["folder", "git", "archive"]
CommandKind = Literal["test", "build", "check", "serve"]
