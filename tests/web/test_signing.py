"""Documents leave signed once the shop has a key, by its own or one kept elsewhere."""

import datetime as dt
import io
import os

import pytest

from cold_arc import cli
from cold_arc.formats.signing import new_key
from cold_arc.web.shell import signing_key

SHEET = "/jobs/1/documents/customer-a4.pdf"


def signatures(pdf):
    from pyhanko.pdf_utils.reader import PdfFileReader

    return PdfFileReader(io.BytesIO(pdf)).embedded_signatures


@pytest.fixture
def elsewhere(tmp_path):
    path = tmp_path / "away" / "key.p12"
    path.parent.mkdir()
    path.write_bytes(new_key("Away", dt.datetime.now(dt.UTC)).data)
    return path


def test_a_sheet_is_signed_once_there_is_a_key_and_no_more_once_it_is_given_up(demo):
    assert not signatures(demo.http.get(SHEET).data)
    assert demo.http.get("/shop/signing.pem").status_code == 404
    assert "Documents are signed from now on." in demo.post("/shop/signing", do="make")
    key = demo.folder / signing_key.FILE
    assert os.stat(key).st_mode & 0o077 == 0
    (signature,) = signatures(demo.http.get(SHEET).data)
    assert signature.compute_integrity_info() is None
    assert "TL-318" in signature.sig_object["/Reason"]
    assert demo.http.get("/shop/signing.pem").data.startswith(b"-----BEGIN CERTIFICATE")
    before = key.read_bytes()
    demo.post("/shop/signing", do="make")
    assert key.read_bytes() == before, "a key there is stays"
    demo.post("/shop/signing", do="drop")
    assert not signatures(demo.http.get(SHEET).data)


def test_a_key_kept_elsewhere_signs_and_is_not_given_up_here(demo, elsewhere, monkeypatch):
    monkeypatch.setenv(signing_key.ELSEWHERE, str(elsewhere))
    assert signatures(demo.http.get(SHEET).data)
    assert "kept elsewhere" in demo.get("/shop")
    demo.post("/shop/signing", 404, do="drop")


def test_a_key_that_can_not_be_read_is_said(demo, monkeypatch, tmp_path):
    monkeypatch.setenv(signing_key.ELSEWHERE, str(tmp_path / "gone.p12"))
    assert "The signing key can't be read" in demo.get("/shop")
    answer = demo.http.get(SHEET)
    assert answer.status_code == 409
    assert "The signing key can&#39;t be read" in answer.text


def test_the_command_signs_with_a_key_that_is_named(demo, elsewhere, monkeypatch, tmp_path):
    monkeypatch.setenv("COLD_ARC_DATA", str(demo.folder))
    to = tmp_path / "sheet.pdf"
    assert cli.main(["sheet", "TL-318", "--to", str(to), "--sign-with", str(elsewhere)]) == 0
    assert len(signatures(to.read_bytes())) == 1
