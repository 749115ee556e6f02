"""How long a search of versions takes: twelve coordinates of ten lines each, made up, from loosely to tightly tied.

python -m bench.search
"""

from __future__ import annotations

import random
import time
from itertools import combinations

from yoake.core.values.coordinates import Coordinate, Line
from yoake.core.planning.search import find_path
from yoake.core.planning.search_space import MILLI, SearchSpace, Track

COORDINATES, LINES = 12, 10


def grid(value) -> tuple[tuple[int, ...], ...]:
    """A matrix over all moves forward."""
    return tuple(tuple(value(i, j) if i < j else 0 for j in range(LINES)) for i in range(LINES))


def track(rng: random.Random, number: int, *, goal: bool) -> Track:
    """One coordinate: work at some of its lines, support ends for those of the destination."""
    bites = [0] + [rng.randint(100, 4000) if rng.random() < (0.4 if goal else 0.05) else 0 for _ in range(LINES - 1)]
    ends = tuple((rng.randint(-800, 200) + i * 150) * 2 * MILLI if goal else None for i in range(LINES))
    names = tuple(Line(n) for n in range(LINES))
    allowed = tuple(tuple(i < j for j in range(LINES)) for i in range(LINES))
    edits, crossed = grid(lambda i, j: sum(bites[i + 1 : j + 1])), grid(lambda i, j: j - i if goal else 1)
    return Track(
        coordinate=Coordinate(f"c{number:02}"), lines=names, goal=LINES - 1 if goal else None, edits=edits, ready=grid(lambda i, j: 0), crossed=crossed, step=allowed, ends=ends
    )


def space(seed: int, goals: int, width: int) -> SearchSpace:
    """Packages that each go with a window of lines of the destination's coordinates, and sometimes with one another."""
    rng = random.Random(seed)
    tracks = [track(rng, c, goal=c < goals) for c in range(COORDINATES)]
    fits = {}
    for a, b in combinations(range(COORDINATES), 2):
        if not (a < goals and rng.random() < 0.7 or rng.random() < 0.1):
            continue
        reach = [(max(0, i - rng.randint(1, width)), min(LINES - 1, i + rng.randint(1, width))) for i in range(LINES)]
        held = [[low <= j <= high for j in range(LINES)] for low, high in reach]
        fits[a, b] = tuple(sum(1 << j for j in range(LINES) if row[j]) for row in held)
        fits[b, a] = tuple(sum(1 << i for i in range(LINES) if held[i][j]) for j in range(LINES))
    return SearchSpace(tracks=tuple(tracks), fits=fits, base=500, kappa=0.1, days_per_week=2.0, before=1000)


def main() -> None:
    """One line a problem: seconds, stages, and whether the answer is proven."""
    print(f"{COORDINATES} coordinates with {LINES} lines each")
    for goals in (1, 2, 3, 4):
        for width in (9, 5):
            for seed in range(2):
                made = space(seed, goals, width)
                row = []
                for objective in ("work", "stages", "danger"):
                    begun = time.perf_counter()
                    found = find_path(made, objective)
                    took = time.perf_counter() - begun
                    row.append(
                        f"{objective} {took:.2f} s {'no way' if found is None else f'{found.cost.stages} stages'}{' proven' if found and found.proven else ''}"
                    )
                print(f"  {goals} with a goal, ties up to {width} lines: {'; '.join(row)}")


if __name__ == "__main__":
    main()
