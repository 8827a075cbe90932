"""Writes docs/references.md from the core's list of references: `python scripts/references.py`."""

from __future__ import annotations

from pathlib import Path

from cold_arc.core.references import Reference, references

DOCUMENT = Path(__file__).parents[1] / "docs" / "references.md"
HEAD = """# References

Made from `cold_arc/core/data/references.toml` by `scripts/references.py`; a finding, a rule or a
table of figures cites an entry by its id and says the clause. What is marked *from memory* was
written down without the text at hand and is to be checked against its current edition. Which figure
comes from where: [numbers.md](numbers.md).
"""


def _row(reference: Reference) -> str:
    told = "from memory" if reference.recalled else ""
    return f"| `{reference.id}` | {reference.title} | {reference.gives} | {told} |"


def document() -> str:
    """The page, as Markdown."""
    parts = [HEAD]
    for published, title in (
        (True, "Published"),
        (False, "Practice, the program's own, the shop's own"),
    ):
        rows = [_row(it) for it in references().values() if it.published is published]
        parts.append(
            "\n".join(
                [f"## {title}", "| id | what | taken from it | |", "|---|---|---|---|", *rows]
            )
            + "\n"
        )
    return "\n".join(parts)


if __name__ == "__main__":
    DOCUMENT.write_text(document(), encoding="utf-8")
