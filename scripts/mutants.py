"""How many changes of the core some test notices: a random sample of mutants of each package.

    python scripts/mutants.py [--sample 60] [--seed 1] [--reached FILE] [PACKAGE ...]

Mutants are made by cosmic-ray's operators, one at a time, in a copy of the tree. Which tests reach
a line is recorded once (coverage's contexts, all tests but the browser's; kept in a file where one
is named); on each mutant those that reach it run until one fails, then the tests that mirror its
package. Prints the share caught with its 95 % interval (Wilson), how many of them by the standing
answers alone, writes both into docs/tests.md, and lists the survivors, each to be looked at.
"""

from __future__ import annotations

import argparse
import json
import math
import multiprocessing
import os
import random
import re
import shutil
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
# What says nothing of a test: annotations' unions, bits of what has none, identity of equals.
SKIPPED = ("BitOr", "BitAnd", "BitXor", "Shift", "Decorator", "Variable", "_Is")
# Nor an order put on what has none: most that is compared for sameness here is a word or a key.
ORDERS = re.compile(r"Operator_(Eq|NotEq)_(Lt|LtE|Gt|GtE)$")
MOST_S = 240.0
# So many of the tests that reach a line are run, those of the core first; then so many answers.
MOST_TESTS, MOST_REACHING, MOST_ANSWERS = 40, 60, 12
STANDING = "tests/standing"
REACHING = ("tests/core", STANDING, "tests/store", "tests/formats", "tests/school", "tests/web")
USUAL_ONES = ("-m", "not thorough")
Reached = dict[str, dict[str, list[str]]]
ROW = "| {package} | {caught} of {made} | {low:.0f} to {high:.0f} % | {answered} |"
HEAD = ("| package | caught | 95 % interval | by the standing answers alone |", "|---|---|---|---|")
# A test's process is forked from one that has read these in: most of what it takes.
READY = multiprocessing.get_context("forkserver")
LIBRARIES = (
    *("numpy", "scipy.optimize", "scipy.interpolate", "numba", "cv2", "sqlalchemy", "flask"),
    *("hypothesis", "pytest", "_pytest.assertion.rewrite", "jsonschema", "cattrs", "xdist"),
)


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
            if not any(skipped in name for skipped in SKIPPED) and not ORDERS.search(name):
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
    _passes(
        copy, None, "-n2", *USUAL_ONES, *measured, "--cov-context=test", "--cov-report=", *REACHING
    )
    data = CoverageData(str(copy / ".coverage"))
    data.read()
    reached: Reached = {}
    for name in data.measured_files():
        lines = data.contexts_by_lineno(name)
        reached[str(Path(name).relative_to(copy.resolve()))] = {
            str(line): sorted({context.partition("|")[0] for context in contexts} - {""})
            for line, contexts in lines.items()
        }
    return reached


def _run(copy: Path, options: Sequence[str]) -> None:
    os.chdir(copy)
    sys.path[:0] = [str(copy)]
    nowhere = os.open(os.devnull, os.O_WRONLY)
    os.dup2(nowhere, 1)
    os.dup2(nowhere, 2)
    import pytest

    os._exit(int(pytest.main(["-q", "-p", "no:cacheprovider", *options])))


def _passes(copy: Path, most_s: float | None, *options: str) -> bool:
    """Whether every test asked for passes in a copy; one that never ends is noticed."""
    process = READY.Process(target=_run, args=(copy, options))
    process.start()
    process.join(most_s)
    if process.is_alive():
        process.kill()
    process.join()
    return process.exitcode == 0


def caught_by(mutant: Mutant, package: str, copy: Path, reached: Reached) -> str | None:
    """What fails on a mutant: "a test", "an answer" that stands alone, or nothing (""); None for a
    mutant that changes nothing.
    """
    module = copy / mutant.module
    before = module.read_text(encoding="utf-8")
    changed = mutate_code(before, get_operator(mutant.operator)(), mutant.occurrence)
    if changed is None or changed == before or _says_nothing(before, changed):
        return None
    module.write_text(changed, encoding="utf-8")
    try:
        tests = _reaching(reached.get(str(mutant.module), {}), before, changed)
        answers = [test for test in tests if test.startswith(STANDING)]
        own = [test for test in tests if test not in answers]
        own = own[:: max(1, len(own) // MOST_REACHING)]
        core_first = sorted(own, key=lambda test: not test.startswith("tests/core"))
        mirroring = (f"cold_arc/core/{package}", f"tests/core/{package}")
        if own and not _passes(copy, MOST_S, "-x", *core_first[:MOST_TESTS]):
            return "a test"
        if answers and not _passes(copy, MOST_S, "-x", *_spread(answers)):
            return "an answer"
        return "" if _passes(copy, MOST_S, "-x", *USUAL_ONES, *mirroring) else "a test"
    finally:
        module.write_text(before, encoding="utf-8")


def _says_nothing(before: str, changed: str) -> bool:
    """Whether a change is in what decorates alone (how many answers are remembered; that a record
    is frozen, which a test holds of all), or in a guard that two lists are as long.
    """
    line = before.splitlines()[_place(before, changed) - 1].strip()
    return line.startswith("@") or "strict=True" in line


def _spread(answers: list[str]) -> list[str]:
    """Some of the standing answers that reach a line, of one job as of another."""
    return answers[:: max(1, len(answers) // MOST_ANSWERS)]


def _reaching(lines: dict[str, list[str]], before: str, changed: str) -> list[str]:
    """The tests that reach the changed line; of one that is read in before any test, a module's
    constants, those that reach the module.
    """
    place = _place(before, changed)
    above = [int(number) for number in lines if int(number) <= place]
    near = lines[str(max(above))] if above else []
    return near or sorted({test for tests in lines.values() for test in tests})


def _place(before: str, changed: str) -> int:
    """The line of a change, from 1."""
    pairs = enumerate(zip(before.splitlines(), changed.splitlines(), strict=False), 1)
    return next((number for number, (old, new) in pairs if old != new), 0)


def wilson(caught: int, made: int) -> tuple[float, float]:
    """The 95 % interval of a share, per cent (Wilson 1927)."""
    z, share = 1.96, caught / made
    middle = share + z * z / (2 * made)
    reach = z * math.sqrt(share * (1 - share) / made + z * z / (4 * made * made))
    low, high = (100 * (middle + sign * reach) / (1 + z * z / made) for sign in (-1, 1))
    return low, high


def tried(
    package: str, sample: int, seed: int, copies: Queue[Path], reached: Reached
) -> list[tuple[Mutant, str]]:
    """A sample of a package's mutants, each with what caught it."""
    every = list(mutants(package))
    chosen = random.Random(seed).sample(every, min(sample, len(every)))

    def run(mutant: Mutant) -> str | None:
        copy = copies.get()
        try:
            return caught_by(mutant, package, copy, reached)
        finally:
            copies.put(copy)

    with ThreadPoolExecutor(copies.qsize()) as pool:
        results = list(pool.map(run, chosen))
    return [
        (mutant, caught)
        for mutant, caught in zip(chosen, results, strict=True)
        if caught is not None
    ]


def copied(folder: Path) -> Path:
    """The tree, to be changed."""
    for part in ("cold_arc", "tests"):
        shutil.copytree(ROOT / part, folder / part)
    shutil.copy(ROOT / "pyproject.toml", folder)
    return folder


def told(package: str, results: Sequence[tuple[Mutant, str]]) -> str:
    """A package's row; its survivors are printed."""
    caught, made = sum(bool(by) for _, by in results), len(results)
    low, high = wilson(caught, made)
    answered = sum(by == "an answer" for _, by in results)
    row = ROW.format(
        package=package, caught=caught, made=made, low=low, high=high, answered=answered
    )
    print(row)
    for mutant, by in results:
        if not by:
            print(
                f"    survived: {mutant.module} {mutant.operator} {mutant.occurrence}", flush=True
            )
    return row


def write_down(rows: Sequence[str]) -> None:
    """The rows in place of those before."""
    document = ROOT / "docs/tests.md"
    text = document.read_text(encoding="utf-8")
    table = "\n".join([*HEAD, *rows])
    kept = re.sub(r"\n\| package \|[^#]*", "", text).rstrip()
    document.write_text(f"{kept}\n\n{table}\n", encoding="utf-8")


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("packages", nargs="*", default=PACKAGES)
    parser.add_argument("--sample", type=int, default=60)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--reached", type=Path)
    options = parser.parse_args()
    READY.set_forkserver_preload(list(LIBRARIES))
    with tempfile.TemporaryDirectory() as folder:
        copies: Queue[Path] = Queue()
        for number in range(2):
            copies.put(copied(Path(folder) / str(number)))
        if options.reached and options.reached.exists():
            reached = json.loads(options.reached.read_text())
        else:
            reached = reached_by(copies.queue[0], PACKAGES)
        if options.reached:
            options.reached.write_text(json.dumps(reached))
        rows = [
            told(package, tried(package, options.sample, options.seed, copies, reached))
            for package in options.packages
        ]
    write_down(rows)


if __name__ == "__main__":
    main()
