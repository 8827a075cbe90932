"""How many changes of the core some test notices: a random sample of mutants of each package.

    python scripts/mutants.py [--sample 60] [--seed 1] [PACKAGE ...]

Mutants are made by cosmic-ray's operators, one at a time, in a copy of the tree. Which tests reach
a line is recorded once (coverage's contexts, all tests but the browser's); on each mutant those that
reach it run until one fails, then the tests that mirror its package. Prints the share caught with
its 95 % interval (Wilson), writes it into docs/tests.md, and lists the survivors, each to be looked
at.
"""

from __future__ import annotations

import argparse
import math
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from cosmic_ray.ast import get_ast_from_path
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names
from coverage import CoverageData

ROOT = Path(__file__).parents[1]
PACKAGES = ("job", "aim", "work", "match", "metering")
# What says nothing of a test: annotations' unions, bits of what has none, identity of what is equal.
SKIPPED = ("BitOr", "BitAnd", "BitXor", "Shift", "Decorator", "Variable", "_Is")
MOST_S = 240.0
# So many of the tests that reach a line are run, those of the core first.
MOST_TESTS = 40
REACHING = ("tests/core", "tests/store", "tests/formats", "tests/school", "tests/web/test_walks.py")
USUAL_ONES = ("-m", "not timed and not thorough")
Reached = dict[str, dict[int, list[str]]]
ROW = "| {package} | {caught} of {made} | {low:.0f} to {high:.0f} % |"


@dataclass(frozen=True)
class Mutant:
    """One change: an operator's occurrence in a module."""

    module: Path
    operator: str
    occurrence: int


def mutants(package: str) -> Iterator[Mutant]:
    """Every mutant of a package's modules."""
    for module in sorted((ROOT / "cold_arc/core" / package).rglob("*.py")):
        nodes = list(_nodes(get_ast_from_path(module)))
        for name in operator_names():
            if not any(skipped in name for skipped in SKIPPED):
                operator = get_operator(name)()
                count = sum(len(list(operator.mutation_positions(node))) for node in nodes)
                for occurrence in range(count):
                    yield Mutant(module.relative_to(ROOT), name, occurrence)


def _nodes(node) -> Iterator:  # type: ignore[no-untyped-def]
    yield node
    for child in getattr(node, "children", ()):
        yield from _nodes(child)


def reached_by(copy: Path, packages: Sequence[str]) -> Reached:
    """Which tests reach each line of some packages: by module and line."""
    measured = [f"--cov=cold_arc/core/{package}" for package in packages]
    _pytest(
        copy, None, "-n2", *USUAL_ONES, *measured, "--cov-context=test", "--cov-report=", *REACHING
    )
    data = CoverageData(str(copy / ".coverage"))
    data.read()
    reached: Reached = {}
    for name in data.measured_files():
        lines = data.contexts_by_lineno(name)
        reached[str(Path(name).relative_to(copy.resolve()))] = {
            line: sorted(
                {context.partition("|")[0] for context in contexts} - {""}, key=_core_first
            )
            for line, contexts in lines.items()
        }
    return reached


def _core_first(test: str) -> tuple[bool, str]:
    return not test.startswith("tests/core"), test


def _pytest(copy: Path, most_s: float | None, *options: str) -> bool:
    """Whether every test asked for passes in a copy; one that never ends is noticed."""
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *options]
    try:
        run = subprocess.run(command, cwd=copy, capture_output=True, timeout=most_s)
    except subprocess.TimeoutExpired:
        return False
    return run.returncode == 0


def is_caught(mutant: Mutant, package: str, copy: Path, reached: Reached) -> bool | None:
    """Whether some test fails on a mutant; None for one that changes nothing."""
    module = copy / mutant.module
    before = module.read_text(encoding="utf-8")
    changed = mutate_code(before, get_operator(mutant.operator)(), mutant.occurrence)
    if changed is None or changed == before:
        return None
    module.write_text(changed, encoding="utf-8")
    try:
        tests = _reaching(reached.get(str(mutant.module), {}), before, changed)
        if tests and not _pytest(copy, MOST_S, "-x", *tests):
            return True
        own = (f"cold_arc/core/{package}", f"tests/core/{package}")
        return not _pytest(copy, MOST_S, "-x", *USUAL_ONES, *own)
    finally:
        module.write_text(before, encoding="utf-8")


def _reaching(lines: dict[int, list[str]], before: str, changed: str) -> list[str]:
    """The tests that reach the changed line, or the nearest line above it that any reaches."""
    pairs = enumerate(zip(before.splitlines(), changed.splitlines(), strict=False), 1)
    place = next((number for number, (old, new) in pairs if old != new), 0)
    above = [number for number in lines if number <= place and lines[number]]
    return lines[max(above)][:MOST_TESTS] if above else []


def wilson(caught: int, made: int) -> tuple[float, float]:
    """The 95 % interval of a share, per cent (Wilson 1927)."""
    z, share = 1.96, caught / made
    middle = share + z * z / (2 * made)
    reach = z * math.sqrt(share * (1 - share) / made + z * z / (4 * made * made))
    return tuple(100 * (middle + sign * reach) / (1 + z * z / made) for sign in (-1, 1))  # type: ignore[return-value]


def tried(
    package: str, sample: int, seed: int, copies: Queue[Path], reached: Reached
) -> list[tuple[Mutant, bool]]:
    """A sample of a package's mutants, each with whether it was caught."""
    every = list(mutants(package))
    chosen = random.Random(seed).sample(every, min(sample, len(every)))

    def run(mutant: Mutant) -> bool | None:
        copy = copies.get()
        try:
            return is_caught(mutant, package, copy, reached)
        finally:
            copies.put(copy)

    with ThreadPoolExecutor(copies.qsize()) as pool:
        results = list(pool.map(run, chosen))
    return [
        (mutant, caught)
        for mutant, caught in zip(chosen, results, strict=True)
        if caught is not None
    ]


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("packages", nargs="*", default=PACKAGES)
    parser.add_argument("--sample", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    rows = []
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for number in range(2):
            copy = Path(folder) / str(number)
            for part in ("cold_arc", "tests"):
                shutil.copytree(ROOT / part, copy / part)
            shutil.copy(ROOT / "pyproject.toml", copy)
            copies.put(copy)
        first = copies.queue[0]
        reached = reached_by(first, options.packages)
        for package in options.packages:
            results = tried(package, options.sample, options.seed, copies, reached)
            caught, made = sum(result for _, result in results), len(results)
            low, high = wilson(caught, made)
            rows.append(ROW.format(package=package, caught=caught, made=made, low=low, high=high))
            print(rows[-1], flush=True)
            for mutant, result in results:
                if not result:
                    print(f"    survived: {mutant.module} {mutant.operator} {mutant.occurrence}")
    document = ROOT / "docs/tests.md"
    text = document.read_text(encoding="utf-8")
    table = "\n".join(["| package | caught | 95 % interval |", "|---|---|---|", *rows])
    document.write_text(
        re.sub(r"\n\| package \|[^#]*", "", text).rstrip() + f"\n\n{table}\n", encoding="utf-8"
    )


if __name__ == "__main__":
    main()
