"""Checks the style sheets: one rule a line, nothing malformed, no variable unknown, no class that
nothing uses.
"""

from __future__ import annotations

import re
import sys
from collections.abc import Iterator
from pathlib import Path

import tinycss2

WEB = Path(__file__).parents[1] / "cold_arc" / "web"
SHEETS = sorted((WEB / "static" / "css").glob("*.css"))
# Sizes of text are six variables; drawings have their own units, print its points.
OWN_SIZE = re.compile(r"font-size:\s*[\d.]+rem")
CLASS = re.compile(r"\.([A-Za-z][\w-]*)")


def used() -> str:
    """Everything that may name a class: templates, scripts, pages."""
    kinds = (*WEB.rglob("*.html"), *WEB.rglob("*.svg"), *WEB.rglob("*.js"), *WEB.rglob("*.py"))
    return "\n".join(path.read_text(encoding="utf-8") for path in kinds)


def rules(nodes: list[tinycss2.ast.Node]) -> Iterator[tinycss2.ast.Node]:
    """Every rule, those within a media query too."""
    for node in nodes:
        if node.type == "at-rule" and node.content is not None and node.lower_at_keyword == "media":
            yield from rules(
                tinycss2.parse_rule_list(node.content, skip_comments=True, skip_whitespace=True)
            )
        else:
            yield node


def faults(sheet: Path, words: set[str], variables: set[str]) -> Iterator[str]:
    """What is wrong with a sheet, with its line."""
    text = sheet.read_text(encoding="utf-8")
    lines: set[int] = set()
    for rule in rules(tinycss2.parse_stylesheet(text, skip_comments=True, skip_whitespace=True)):
        where = f"{sheet.name}:{rule.source_line}"
        if rule.type == "error":
            yield f"{where}: {rule.message}"
        elif rule.type == "qualified-rule":
            if rule.source_line in lines:
                yield f"{where}: a second rule on the line"
            lines.add(rule.source_line)
            names = CLASS.findall(tinycss2.serialize(rule.prelude))
            yield from (
                f"{where}: nothing uses .{name}" for name in names if not _used(name, words)
            )
            said = tinycss2.serialize(rule.content)
            yield from (f"{where}: {size} is no size of ours" for size in OWN_SIZE.findall(said))
            unknown = set(re.findall(r"var\((--[\w-]+)", said)) - variables
            yield from (f"{where}: {name} is not defined" for name in sorted(unknown))


def _used(name: str, words: set[str]) -> bool:
    """Whether a class is named whole, or by a stem a template completes ("result-" with a
    result).
    """
    stem = name.rpartition("-")[0]
    return name in words or (bool(stem) and f"{stem}-" in words)


def main() -> int:
    """0 where all is well."""
    words = set(re.findall(r"[A-Za-z][\w-]*", used()))
    texts = [path.read_text(encoding="utf-8") for path in SHEETS]
    texts.append((WEB / "static/vendor/bootstrap/bootstrap.min.css").read_text(encoding="utf-8"))
    variables = {name for text in texts for name in re.findall(r"(--[\w-]+)\s*:", text)}
    found = [fault for sheet in SHEETS for fault in faults(sheet, words, variables)]
    print("\n".join(found))
    return bool(found)


if __name__ == "__main__":
    sys.exit(main())
