"""Every judgement names its source, out of one list that docs/references.md is made from."""

import re
from pathlib import Path

import pytest

from cold_arc.core import references
from cold_arc.core.references import Source, UnknownReferenceError, cite, say
from scripts.references import DOCUMENT, document

CORE = Path(references.__file__).parent


def test_a_citation_names_an_entry_and_a_clause():
    assert cite("un-r48 6.2.6.1") == (Source("un-r48", "6.2.6.1", recalled=True),)
    assert say(cite("un-r48 6.2.6.1")) == "UN R48 6.2.6.1, from memory"
    assert say(cite("cfr-571-108", "sae-j599")) == "49 CFR 571.108 and SAE J599, from memory"
    assert (
        say(cite("iec-60529", "practice"))
        == "IEC 60529, from memory; common practice, no published source"
    )
    assert say(cite("measured")) == "measured off the old bulb"


def test_what_is_not_in_the_list_can_not_be_cited():
    with pytest.raises(UnknownReferenceError, match="un-r999"):
        cite("un-r999 4.2")


def test_every_entry_is_cited_somewhere():
    """By its id, or by its name in a docstring or beside a constant: one nothing is taken from only
    looks learned.
    """
    files = [
        path
        for path in (*CORE.rglob("*.py"), *CORE.rglob("*.toml"))
        if path.name != "references.toml"
    ]
    text = " ".join(" ".join(path.read_text().split()) for path in files)
    cited = set(re.findall(r"[\"']([a-z0-9-]+)(?: [^\"']*)?[\"']", text))
    uncited = {it.id for it in references.references().values() if it.name not in text} - cited
    assert uncited == set()


def test_the_page_of_references_is_made_from_the_list():
    assert DOCUMENT.read_text(encoding="utf-8") == document(), "run: python scripts/references.py"
