"""A document signed with the shop's own key, so that nobody changes it unseen: PDF signatures (ISO
32000) by pyHanko, the key a PKCS#12 file.
"""

from __future__ import annotations

import datetime as dt
import io
import logging
from dataclasses import dataclass

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.hazmat.primitives.serialization import pkcs12
from cryptography.x509.oid import NameOID

from cold_arc.core.errors import ColdArcError

FIELD = "Shop"
YEARS = 10
logging.getLogger("pyhanko").setLevel(logging.ERROR)


class SigningError(ColdArcError, ValueError):
    """A key that can't be used; the message says why."""


@dataclass(frozen=True)
class ShopKey:
    """A key as it is kept: PKCS#12, and its password where it has one."""

    data: bytes
    password: bytes | None = None

    def certificate(self) -> x509.Certificate:
        """What others check by; SigningError for what is no key, or another password's."""
        try:
            _, certificate, _ = pkcs12.load_key_and_certificates(self.data, self.password)
        except ValueError as error:
            raise SigningError("That is no PKCS#12 key, or its password is another.") from error
        if certificate is None:
            raise SigningError("The key comes without its certificate.")
        return certificate

    @property
    def fingerprint(self) -> str:
        """Its certificate's SHA-256, in pairs."""
        return self.certificate().fingerprint(hashes.SHA256()).hex(":").upper()

    @property
    def pem(self) -> bytes:
        """Its certificate, to be given away."""
        return self.certificate().public_bytes(serialization.Encoding.PEM)


def new_key(name: str, now: dt.datetime) -> ShopKey:
    """A key of a shop's own, on P-256, with a certificate it gave itself; *now* aware."""
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, name[:64] or FIELD)])
    certificate = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + dt.timedelta(days=365 * YEARS))
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(
            x509.KeyUsage(True, True, False, False, False, False, False, False, False),
            critical=True,
        )
        .sign(key, hashes.SHA256())
    )
    held = serialization.NoEncryption()
    return ShopKey(pkcs12.serialize_key_and_certificates(b"shop", key, certificate, None, held))


def signed(pdf: bytes, key: ShopKey, reason: str) -> bytes:
    """The document with a signature over all of it; SigningError for a key that can't be used."""
    from pyhanko.pdf_utils.incremental_writer import IncrementalPdfFileWriter
    from pyhanko.sign import signers

    key.certificate()
    signer = signers.SimpleSigner.load_pkcs12_data(
        key.data, other_certs=[], passphrase=key.password
    )
    if signer is None:
        raise SigningError("The key can't be used to sign.")
    meta = signers.PdfSignatureMetadata(field_name=FIELD, reason=reason, md_algorithm="sha256")
    out = signers.sign_pdf(IncrementalPdfFileWriter(io.BytesIO(pdf)), meta, signer=signer)
    return bytes(out.getvalue())
