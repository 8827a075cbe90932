"""Holds the house style that no linter knows: names, one name a class, complexity, columns and
conditions of templates, paths in docs.

Prints what is wrong, one a line; exit 1 where anything is.
"""

from __future__ import annotations

import ast
import re
import subprocess
import sys
from collections import defaultdict
from collections.abc import Iterable, Iterator
from functools import cache
from pathlib import Path

import jinja2
from radon.complexity import cc_rank, cc_visit_ast

ROOT = Path(__file__).parents[1]
# Names that say nothing of what they hold, bound nowhere: in no assignment, argument or loop.
VAGUE = {"it", "told", "found", "said", "thing", "stuff", "data_", "obj", "tmp", "res", "foo"}
WORST_GRADE = "B"
README_WORDS = 900
# A template, or a macro, decides no more than this: the rest is a view object's.
MOST_CONDITIONS = 12
CONDITION = re.compile(r"\{%-?\s*(?:if|elif)\b|\{\{[^}]*\sif\s[^}]*\}\}")
TEMPLATE_CODE = re.compile(r"\{\{.*?\}\}|\{%.*?%\}|\{#.*?#\}", re.DOTALL)
# Words under a pointer, and those read aloud.
SHOWN_AS_IT_STANDS = re.compile(r'<title>([^<]*)</title>|\b(?:title|aria-label)="([^"]*)"')
# As wide as what ruff holds of Python: templates, style sheets, scripts.
MOST_COLUMNS = 100
TEMPLATES = ROOT / "cold_arc/web/templates"
STATIC = ROOT / "cold_arc/web/static"
# Paths that a reader makes, or that stand for any.
NOT_THERE_YET = ("var/", ".venv/")


@cache
def parts(tree: ast.Module) -> tuple[ast.AST, ...]:
    """All there is in a file, walked once for every check."""
    return tuple(ast.walk(tree))


def bound(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Every name that is bound, with its line; fields of classes aside."""
    fields = {
        id(target)
        for node in parts(tree)
        if isinstance(node, ast.ClassDef)
        for part in node.body
        for target in _targets(part)
    }
    for node in parts(tree):
        if (
            isinstance(node, ast.Name)
            and isinstance(node.ctx, ast.Store)
            and id(node) not in fields
        ):
            yield node.lineno, node.id
        elif isinstance(node, ast.arg):
            yield node.lineno, node.arg


def _targets(part: ast.stmt) -> list[ast.expr]:
    """What a line of a class's body binds."""
    if isinstance(part, ast.AnnAssign):
        return [part.target]
    return part.targets if isinstance(part, ast.Assign) else []


def vague_names(path: Path, tree: ast.Module) -> Iterator[str]:
    """The vague names of one file."""
    for line, name in bound(tree):
        if name in VAGUE:
            yield f"{path}:{line}: “{name}” says nothing: name what it holds"


def doubled_classes(trees: dict[Path, ast.Module]) -> Iterator[str]:
    """Class names that stand for two things."""
    where: dict[str, set[Path]] = defaultdict(set)
    for path, tree in trees.items():
        for node in parts(tree):
            if isinstance(node, ast.ClassDef):
                where[node.name].add(path)
    for name, paths in sorted(where.items()):
        if len(paths) > 1:
            yield f"class {name} stands for several things: {', '.join(sorted(map(str, paths)))}"


WORDED = ("text", "number", "limit", "advice")


def glued_findings(path: Path, tree: ast.Module) -> Iterator[str]:
    """Findings whose words are glued from strings, not worded with named values."""
    makers = parts(tree) if _findings_made(parts(tree)) else ()
    for function in makers:
        if isinstance(function, ast.FunctionDef):
            for call in _findings_made(ast.walk(function)):
                given = [*call.args[2:3], *call.args[4:7]]
                given += [word.value for word in call.keywords if word.arg in WORDED]
                names = {part.id for part in given if isinstance(part, ast.Name)}
                for part in (*given, *_bound_to(function, names)):
                    if isinstance(part, ast.JoinedStr | ast.BinOp):
                        yield f"{path}:{part.lineno}: words of a finding are glued: use worded()"


def _findings_made(nodes: Iterable[ast.AST]) -> list[ast.Call]:
    return [
        node
        for node in nodes
        if isinstance(node, ast.Call)
        and isinstance(node.func, ast.Name)
        and node.func.id == "Finding"
    ]


def _bound_to(function: ast.FunctionDef, names: set[str]) -> Iterator[ast.expr]:
    """What is bound to some names in a function, one by one or several at once."""
    for node in ast.walk(function):
        for target in node.targets if isinstance(node, ast.Assign) else ():
            pairs = [(target, node.value)]
            if isinstance(target, ast.Tuple) and isinstance(node.value, ast.Tuple):
                pairs = list(zip(target.elts, node.value.elts, strict=True))
            yield from (
                value for name, value in pairs if isinstance(name, ast.Name) and name.id in names
            )


def doubled_findings(trees: dict[Path, ast.Module]) -> Iterator[str]:
    """Ids that two findings share: an id says one thing."""
    where: dict[str, list[str]] = defaultdict(list)
    for path, tree in trees.items():
        for call in _findings_made(parts(tree)):
            if call.args and isinstance(call.args[0], ast.Constant):
                where[call.args[0].value].append(f"{path}:{call.lineno}")
    for name, places in sorted(where.items()):
        if len(places) > 1:
            yield f"finding {name} is made in several places: {', '.join(places)}"


def complex_functions(path: Path, tree: ast.Module) -> Iterator[str]:
    """Functions of a grade worse than the one kept, comprehensions counted (radon's grades)."""
    for block in cc_visit_ast(tree):
        blocks = [block, *getattr(block, "methods", ())]
        for each in blocks:
            if not hasattr(each, "methods") and cc_rank(each.complexity) > WORST_GRADE:
                yield f"{path}:{each.lineno}: {each.name} is of grade {cc_rank(each.complexity)}"


def deciding_templates() -> Iterator[str]:
    """Templates, and macros, that decide more than a template should."""
    for path in sorted(TEMPLATES.rglob("*.html")):
        for piece in re.split(r"\{% macro ", path.read_text(encoding="utf-8")):
            if (count := len(CONDITION.findall(piece))) > MOST_CONDITIONS:
                yield f"{path.relative_to(ROOT)}: {count} conditions, more than {MOST_CONDITIONS}"


def vague_in_templates() -> Iterator[str]:
    """The vague names that templates bind."""
    grammar = jinja2.Environment(autoescape=True)
    for path in sorted(TEMPLATES.rglob("*.html")):
        tree = grammar.parse(path.read_text(encoding="utf-8"))
        for name in tree.find_all(jinja2.nodes.Name):
            if name.name in VAGUE and name.ctx != "load":
                yield f"{path.relative_to(ROOT)}:{name.lineno}: “{name.name}” says nothing"


def broken_words() -> Iterator[str]:
    """What is shown with its line breaks as they stand in a template, over more than one line."""
    for path in sorted(TEMPLATES.rglob("*.html")):
        plain = TEMPLATE_CODE.sub("", path.read_text(encoding="utf-8"))
        for words in (word for pair in SHOWN_AS_IT_STANDS.findall(plain) for word in pair):
            if "\n" in words:
                yield f"{path.relative_to(ROOT)}: “{' '.join(words.split())}” is broken"


def wide_lines() -> Iterator[str]:
    """Lines of templates, style sheets and scripts of ours that are too wide."""
    ours = (*STATIC.glob("css/*.css"), *STATIC.glob("js/*.js"), *TEMPLATES.rglob("*.html"))
    for path in sorted(ours):
        for number, line in enumerate(path.read_text(encoding="utf-8").splitlines(), 1):
            if len(line) > MOST_COLUMNS:
                yield f"{path.relative_to(ROOT)}:{number}: {len(line)} columns"


def missing_paths(document: Path) -> Iterator[str]:
    """Paths a document names that are not there."""
    for named in re.findall(r"`([\w./-]+/[\w./-]+)`", document.read_text(encoding="utf-8")):
        places = (ROOT / named, ROOT / "cold_arc" / named, ROOT / "cold_arc/web" / named)
        if not named.startswith(NOT_THERE_YET) and not any(place.exists() for place in places):
            yield f"{document.name}: there is no {named}"


def faults() -> Iterator[str]:
    """Everything that is wrong."""
    files = subprocess.run(
        ["git", "ls-files", "cold_arc/*.py"], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout.split()
    trees = {
        Path(name): ast.parse((ROOT / name).read_text(encoding="utf-8"))
        for name in files
        if "migrations/versions" not in name and (ROOT / name).exists()
    }
    for path, tree in trees.items():
        yield from vague_names(path, tree)
        yield from complex_functions(path, tree)
        yield from glued_findings(path, tree)
    yield from doubled_classes(trees)
    yield from doubled_findings(trees)
    yield from deciding_templates()
    yield from vague_in_templates()
    yield from broken_words()
    yield from wide_lines()
    for name in ("CONTRIBUTING.md", "docs/architecture.md"):
        yield from missing_paths(ROOT / name)
    words = len((ROOT / "README.md").read_text(encoding="utf-8").split())
    if words > README_WORDS:
        yield f"README.md has {words} words, more than {README_WORDS}"


if __name__ == "__main__":
    wrong = list(faults())
    print("\n".join(wrong))
    sys.exit(bool(wrong))
