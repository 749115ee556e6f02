"""Sources of one form, repeated: how the time to read them grows with their length. Twice as long should take twice as long.

    python -m bench.growth [--times 4000]

Prints every form with the milliseconds for so many repeats and for twice as many; what takes more than three times as long is marked.
"""

from __future__ import annotations

import argparse
import time

from yoake.core.registered import ECOSYSTEMS

FORMS = (
    ("a.py", "x = a[0]", ".b", ""), ("a.py", "x = a(1)", ".b", ""), ("a.py", "x = a", ".b(1)", ""), ("a.py", "x = a", "[i].c", ""),
    ("a.py", "x = a", " and b", ""), ("a.py", "x = ", "a if b else ", "c"), ("a.py", "x = 'a'", " + 'b'", ""), ("a.py", "", "import a\n", ""),
    ("a.py", "from a import ", "b, ", "c"), ("a.py", "if a:\n  b\n", "elif c:\n  d\n", ""), ("a.py", "", "@a.b\n", "def f(): pass"),
    ("a.py", "try:\n  a\n", "except b.c:\n  d\n", ""), ("a.py", "", "a.b = ", "1"), ("a.py", "x = ", "lambda: ", "1"), ("a.py", "x = ", "not ", "1"),
    ("a.js", "x = a[y]", ".b", ""), ("a.js", "x = a(1)", ".b", ""), ("a.js", "x = a", ".b(1)", ""), ("a.js", "x = a", "[i].c", ""),
    ("a.js", "x = a", "['b']", ""), ("a.js", "x = a", "?.b", ""), ("a.js", "x = a", " || b", ""), ("a.js", "x = a", " && b", ""), ("a.js", "x = a", " ?? b", ""),
    ("a.js", "x = ", "a ? b : ", "c"), ("a.js", "", "a = ", "1"), ("a.js", "", "exports.a = ", "1"), ("a.js", "", "this.a = ", "1"),
    ("a.js", "x = 'a'", " + 'b'", ""), ("a.js", "if (a) b; ", "else if (c) d; ", ""), ("a.js", "x = ", "a => ", "1"), ("a.js", "x = (a", ", a", ")"),
    ("A.java", "class A { Object x = a", ".b", ";}"), ("A.java", "class A { Object x = a", ".b()", ";}"), ("A.java", "import a", ".b", ";"),
    ("A.java", "class A { Object x = ", "a ? b : ", "c;}"), ("A.java", "class A { String x = \"a\"", " + \"b\"", ";}"), ("A.java", "class A { a", "<b", "> x;}"),
    ("A.java", "class A { void f() { ", "if (a) b(); else ", "c();}}"), ("A.java", "class A { Object x = ", "a -> ", "b;}"), ("A.java", "class A extends a", ".b", " {}"),
    ("a.ts", "let x: a", ".b", ""), ("a.ts", "x = a", " as b", ""), ("a.ts", "x = a", "!", ""),
)  # fmt: skip


def seconds(form: tuple[str, str, str, str], times: int) -> float:
    """How long one file takes to read."""
    name, before, part, after = form
    began = time.perf_counter()
    ECOSYSTEMS.read_source(name, f"{before}{part * times}{after}".encode())
    return time.perf_counter() - began


def main() -> None:
    """Read every form in two lengths."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--times", type=int, default=4000)
    times = parser.parse_args().times
    for form in FORMS:
        once, twice = seconds(form, times), seconds(form, 2 * times)
        mark = "  <-- grows faster than its length" if twice > 3 * once and twice > 0.2 else ""
        print(
            f"{form[0]}  {form[1] + form[2] + '…' + form[3]!r:44}{1000 * once:9.0f}{1000 * twice:9.0f} ms{mark}",
            flush=True,
        )


if __name__ == "__main__":
    main()
