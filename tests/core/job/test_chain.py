"""A record's chain: what a link's digest stands for, and what a sheet's code is."""

import datetime as dt
import hashlib
from dataclasses import replace

import pytest
import rfc8785

from cold_arc.core.job import chain
from cold_arc.core.job.chain import Link, StoredContent

AT = dt.datetime(2026, 11, 30, 9, 15, 0, 250_000, tzinfo=dt.UTC)
LINK = Link("entry", 1, AT, False, "")
CONTENT = StoredContent(AT, "remark", 1, '["low-left"]', '{"text": "as it came", "lux": 410.0}')


def test_canonical_json_is_that_of_the_standard():
    """RFC 8785, section 3.2.3 and appendix B: members sorted, numbers as ECMAScript writes them."""
    assert rfc8785.dumps({"b": 1.0, "a": 1e30, "\u20ac": 0.000001}) == (
        '{"a":1e+30,"b":1,"\u20ac":0.000001}'.encode()
    )


def test_a_digest_is_the_sha_256_of_what_stands_in_the_document():
    """The form docs/proof.md gives, written out by hand."""
    text = (
        '{"about":["low-left"],"at":"2026-11-30T09:15:00.250000Z","before":"",'
        '"entered":"2026-11-30T09:15:00.250000Z","kind":"remark","late":false,'
        '"payload":{"lux":410,"text":"as it came"},"place":1,"version":1,"what":"entry"}'
    )
    assert chain.digest_of("", LINK, CONTENT) == hashlib.sha256(text.encode()).hexdigest()


@pytest.mark.parametrize(
    "changed",
    [
        replace(CONTENT, kind="remark2"),
        replace(CONTENT, version=2),
        replace(CONTENT, about='["low-right"]'),
        replace(CONTENT, payload=CONTENT.payload.replace("410.0", "411.0")),
        replace(CONTENT, payload=CONTENT.payload.replace(": ", ":")),
        replace(CONTENT, at=AT + dt.timedelta(microseconds=1)),
    ],
)
def test_whatever_is_changed_of_an_entry_changes_its_digest(changed):
    assert chain.digest_of("", LINK, changed) != chain.digest_of("", LINK, CONTENT)


def test_it_depends_on_what_came_before_and_on_what_was_done():
    whole = chain.digest_of("", LINK, CONTENT)
    assert chain.digest_of("ab", LINK, CONTENT) != whole
    for other in (replace(LINK, place=2), replace(LINK, late=True), replace(LINK, what="undo")):
        assert chain.digest_of("", other, CONTENT) != whole


@pytest.mark.parametrize("text", ["", "no", "7F3A-09BC-D1E", "7F3A-09BC-D1EG", "7F3A09BCD1E2FF"])
def test_what_is_no_code_is_said(text):
    with pytest.raises(chain.CodeError, match="one is like 7F3A-09BC-D1E2"):
        chain.read_code(text)


def test_a_code_is_read_as_it_is_printed_and_as_it_is_typed():
    digest = hashlib.sha256(b"").hexdigest()
    code = chain.code_of(digest)
    for typed in (code, code.lower(), code.replace("-", " "), f"  {code.replace('-', '')} "):
        assert digest.startswith(chain.read_code(typed))
