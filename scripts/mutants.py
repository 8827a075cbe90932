"""How many changes of the core some test notices: a random sample of mutants of each package.

    python scripts/mutants.py [--sample 60] [--seed 1] [PACKAGE ...]

Mutants are made by cosmic-ray's operators, one at a time, in a copy of the tree; a package's own
tests, its doctests among them, run on each until one fails. Prints the share caught with its 95 % interval (Wilson), writes
it into docs/tests.md, and lists the survivors, each to be looked at.
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
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from queue import Queue

from cosmic_ray.ast import get_ast_from_path
from cosmic_ray.mutating import mutate_code
from cosmic_ray.plugins import get_operator, operator_names

ROOT = Path(__file__).parents[1]
PACKAGES = ("job", "aim", "work", "match", "metering")
# What says nothing of a test: annotations' unions, and operators that turn numbers of drawings.
SKIPPED = ("BitOr", "Decorator", "Variable")
MOST_S = 240.0
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


def is_caught(mutant: Mutant, package: str, copy: Path) -> bool | None:
    """Whether some test of the package fails on a mutant; None for one that changes nothing."""
    module = copy / mutant.module
    before = module.read_text(encoding="utf-8")
    changed = mutate_code(before, get_operator(mutant.operator)(), mutant.occurrence)
    if changed is None or changed == before:
        return None
    module.write_text(changed, encoding="utf-8")
    wanted = "not timed and not thorough"
    command = [sys.executable, "-m", "pytest", "-q", "-x", "-p", "no:cacheprovider", "-m", wanted]
    own = [name for name in (_own_tests(mutant.module),) if (copy / name).exists()]
    try:
        run = subprocess.run(
            [*command, *own, f"cold_arc/core/{package}", f"tests/core/{package}"],
            cwd=copy,
            capture_output=True,
            timeout=MOST_S,
        )
        return run.returncode != 0
    except subprocess.TimeoutExpired:
        return True
    finally:
        module.write_text(before, encoding="utf-8")


def _own_tests(module: Path) -> str:
    """The tests that mirror a module: run first, they catch most of what is caught at all."""
    inside = module.relative_to("cold_arc")
    return f"tests/{inside.parent}/test_{inside.name}"


def wilson(caught: int, made: int) -> tuple[float, float]:
    """The 95 % interval of a share, per cent (Wilson 1927)."""
    z, share = 1.96, caught / made
    middle = share + z * z / (2 * made)
    reach = z * math.sqrt(share * (1 - share) / made + z * z / (4 * made * made))
    return tuple(100 * (middle + sign * reach) / (1 + z * z / made) for sign in (-1, 1))  # type: ignore[return-value]


def tried(package: str, sample: int, seed: int, copies: Queue[Path]) -> list[tuple[Mutant, bool]]:
    """A sample of a package's mutants, each with whether it was caught."""
    every = list(mutants(package))
    chosen = random.Random(seed).sample(every, min(sample, len(every)))

    def run(mutant: Mutant) -> bool | None:
        copy = copies.get()
        try:
            return is_caught(mutant, package, copy)
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
        for package in options.packages:
            results = tried(package, options.sample, options.seed, copies)
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
