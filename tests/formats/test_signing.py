"""Signed documents: whole and by that key, or told to be otherwise; checked by pyHanko's own
validation, and by a reader of PDF that knows nothing of signatures."""

import datetime as dt
import io

import pypdf
import pytest
from cryptography.hazmat.primitives.serialization import Encoding

from cold_arc.formats.document import Document, DocumentPart, to_pdf
from cold_arc.formats.signing import ShopKey, SigningError, new_key, signed

NOW = dt.datetime.now(dt.UTC)
PDF = to_pdf(Document("Sheet", "Shop", (), (DocumentPart("Aim", ("Aim as left: in.",)),)))


@pytest.fixture(scope="module")
def key():
    return new_key("Tallow Lane", NOW)


def check(pdf, key, tmp_path):
    from pyhanko.keys import load_cert_from_pemder
    from pyhanko.pdf_utils.reader import PdfFileReader
    from pyhanko.sign.validation import validate_pdf_signature
    from pyhanko_certvalidator import ValidationContext

    path = tmp_path / "shop.der"
    path.write_bytes(key.certificate().public_bytes(Encoding.DER))
    trust = ValidationContext(trust_roots=[load_cert_from_pemder(str(path))])
    (signature,) = PdfFileReader(io.BytesIO(pdf)).embedded_signatures
    return validate_pdf_signature(signature, trust)


def test_a_signed_document_is_whole_and_by_that_key(key, tmp_path):
    pdf = signed(PDF, key, "Sheet A-1")
    status = check(pdf, key, tmp_path)
    assert status.intact
    assert status.valid
    assert status.trusted
    assert not check(pdf, new_key("Another", NOW), tmp_path).trusted
    assert pdf.startswith(PDF)
    assert "Aim as left: in." in pypdf.PdfReader(io.BytesIO(pdf)).pages[0].extract_text()


def test_what_was_changed_after_it_was_signed_is_told(key, tmp_path):
    pdf = signed(PDF, key, "Sheet A-1")
    changed = pdf.replace(b"/Title (Sheet)", b"/Title (Cheat)")
    assert changed != pdf
    assert not check(changed, key, tmp_path).intact


def test_what_is_no_key_is_said(key):
    for wrong in (ShopKey(b"key"), ShopKey(key.data, b"password")):
        with pytest.raises(SigningError, match="no PKCS#12 key"):
            signed(PDF, wrong, "")


def test_a_key_tells_whose_it_is(key):
    assert "Tallow Lane" in key.certificate().subject.rfc4514_string()
    assert len(key.fingerprint.split(":")) == 32
    assert key.pem.startswith(b"-----BEGIN CERTIFICATE-----")
