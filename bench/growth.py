"""Sources of one form, repeated: how the time to read them grows with their length. Twice as long should take twice as long.

    python -m bench.growth [--times 4000]

Prints every form with the milliseconds for so many repeats and for twice as many; what takes more than three times as long is marked. Then the
patterns of rules about texts, over texts that begin as their samples do and go on so as to hinder them: those that take longer than half a second.
"""

from __future__ import annotations

import argparse
import time
from collections.abc import Iterator

from yoake.shipped import KIT
from yoake.core.knowledge.models import Rule, laid_out
from yoake.core.registered import ECOSYSTEMS
from yoake.core.scan.text_rules import spoken_lines

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


def hindering(rule: Rule) -> Iterator[str]:
    """Texts that begin as the samples of a rule do, and then go on with what makes patterns try again."""
    for sample in (*rule.faulty, *rule.fine):
        for text in (laid_out(sample) or {"": sample}).values():
            begun = text.strip()
            yield f"{text}\n" * 400
            yield from (f"{begun[: len(begun) * part // 3]}{end}" * 600 for part in (1, 2, 3) for end in "\n ")
            yield begun + "\n" + "        \n" * 3000
            yield from (begun[: len(begun) // 2] + end for end in (" " * 20000, "a" * 20000, "{" * 5000, "(" * 5000, "{a: 1}," * 4000, "'a', " * 5000))


def patterns() -> None:
    """Print each rule about a text that takes longer than half a second over one of these, with the longest."""
    for rule, _ in KIT.knowledge().rules_by_id.values():
        longest = 0.0
        for text in hindering(rule) if rule.text is not None else ():
            begun = time.perf_counter()
            list(spoken_lines(rule, text))
            longest = max(longest, time.perf_counter() - begun)
        if longest > 0.5:
            print(f"{rule.id:44}{1000 * longest:9.0f} ms", flush=True)


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
    patterns()


if __name__ == "__main__":
    main()
