"""Lets the shop's tablets and telephones in: this machine's names on the network, and https before
the pages.

A browser lends a page the camera on a secure address or on the machine itself only. The certificate
is the shop's own, so each telephone asks about it once.
"""

from __future__ import annotations

import datetime as dt
import ipaddress
import socket
from collections.abc import Sequence
from contextlib import closing, suppress
from pathlib import Path

import cv2
import numpy as np
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from cold_arc.store.owned import write_for_owner

OWN_NAMES = ("localhost", "127.0.0.1")
CERTIFICATE = "https.pem"
VALID, RENEWED_BEFORE = dt.timedelta(days=825), dt.timedelta(days=30)
# The light rim a QR code needs, modules.
QUIET = 4
# Nothing is sent there: asking the way to it tells the address this machine has on its network (RFC
# 5737).
SOMEWHERE = ("192.0.2.1", 9)


def network_names() -> list[str]:
    """What this machine is called on its network: its address, if it has one, and its name."""
    names = []
    with closing(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) as probe, suppress(OSError):
        probe.connect(SOMEWHERE)
        names.append(probe.getsockname()[0])
    return [*names, socket.gethostname().lower()]


def certificate(folder: Path, names: Sequence[str]) -> Path:
    """The shop's own certificate for *names*, with its key, made once and renewed before it ends;
    its owner's alone.
    """
    path, names = folder / CERTIFICATE, list(dict.fromkeys([*OWN_NAMES, *names]))
    if not _still_good(path, names):
        write_for_owner(path, _made(names))
    return path


def fingerprint(path: Path) -> str:
    """A certificate's fingerprint, as browsers show it: SHA-256 in pairs."""
    held = x509.load_pem_x509_certificate(path.read_bytes())
    return held.fingerprint(hashes.SHA256()).hex(":").upper()


def qr_code(text: str) -> str:
    """A text as a QR code of half blocks, light on dark, with its quiet rim (ISO/IEC 18004, by
    OpenCV).
    """
    modules = cv2.QRCodeEncoder.create().encode(text) > 0
    light = np.pad(modules, QUIET, constant_values=True)
    light = np.pad(light, ((0, len(light) % 2), (0, 0)), constant_values=True)
    blocks = {(True, True): "█", (True, False): "▀", (False, True): "▄", (False, False): " "}
    pairs = zip(light[::2], light[1::2], strict=True)
    return "\n".join(
        "".join(blocks[bool(above), bool(below)] for above, below in zip(*rows, strict=True))
        for rows in pairs
    )


def _still_good(path: Path, names: list[str]) -> bool:
    try:
        held = x509.load_pem_x509_certificate(path.read_bytes())
        names_held = held.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    except (OSError, ValueError, x509.ExtensionNotFound):
        return False
    ends = held.not_valid_after_utc - dt.datetime.now(dt.UTC)
    return ends > RENEWED_BEFORE and {_name(name) for name in names} <= set(names_held)


def _name(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ipaddress.ip_address(name))
    except ValueError:
        return x509.DNSName(name.encode("idna").decode())


def _made(names: list[str]) -> bytes:
    """A key and a certificate signed by it, PEM."""
    key, now = ec.generate_private_key(ec.SECP256R1()), dt.datetime.now(dt.UTC)
    own = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Cold Arc of this shop")])
    builder = (
        x509.CertificateBuilder(own, own, key.public_key(), x509.random_serial_number())
        .not_valid_before(now - dt.timedelta(days=1))
        .not_valid_after(now + VALID)
        .add_extension(x509.SubjectAlternativeName([_name(name) for name in names]), critical=False)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
    )
    plain = (
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )
    return key.private_bytes(*plain) + builder.sign(key, hashes.SHA256()).public_bytes(
        serialization.Encoding.PEM
    )
