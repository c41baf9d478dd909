"""The shop's own certificate, made when it is first reached over the network.

Nobody has vouched for it: a browser asks once, and its fingerprint, as the terminal shows it,
tells that it is the shop's.
"""

import os
import socket
from collections.abc import Collection
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import ExtendedKeyUsageOID, NameOID

_LASTS = timedelta(days=397)
_RENEWED = timedelta(days=30)


@dataclass(frozen=True)
class Certificate:
    """Files of a certificate and of its key, both PEM."""

    cert: Path
    key: Path

    @property
    def fingerprint(self) -> str:
        """SHA-256 of the certificate, in pairs."""
        found = x509.load_pem_x509_certificate(self.cert.read_bytes())
        return found.fingerprint(hashes.SHA256()).hex(":").upper()


def own_certificate(folder: Path, names: Collection[str]) -> Certificate:
    """The certificate in a folder, made where there is none, it is worn out, or names are new."""
    made = Certificate(folder / "cert.pem", folder / "key.pem")
    if not _still_good(made, names):
        folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        _make(made, names)
    return made


def names_of_this_machine() -> list[str]:
    """What this machine is called on its network, and the address it is reached by."""
    name = socket.gethostname()
    return [name, f"{name}.local", *_own_address()]


def _own_address() -> list[str]:
    """The address that leads out; asking for it sends nothing."""
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as probe:
        try:
            probe.connect(("192.0.2.1", 9))
            return [str(probe.getsockname()[0])]
        except OSError:
            return []


def _still_good(made: Certificate, names: Collection[str]) -> bool:
    if not (made.cert.exists() and made.key.exists()):
        return False
    found = x509.load_pem_x509_certificate(made.cert.read_bytes())
    known = found.extensions.get_extension_for_class(x509.SubjectAlternativeName).value
    told = {str(n.value) for n in known}
    return set(names) <= told and found.not_valid_after_utc > datetime.now(UTC) + _RENEWED


def _make(made: Certificate, names: Collection[str]) -> None:
    key = ec.generate_private_key(ec.SECP256R1())
    subject = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Vivid Arm")])
    now = datetime.now(UTC)
    cert = (
        x509.CertificateBuilder()
        .subject_name(subject)
        .issuer_name(subject)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(hours=1))
        .not_valid_after(now + _LASTS)
        .add_extension(x509.BasicConstraints(ca=False, path_length=None), critical=True)
        .add_extension(x509.ExtendedKeyUsage([ExtendedKeyUsageOID.SERVER_AUTH]), critical=False)
        .add_extension(x509.SubjectAlternativeName([_san(n) for n in names]), critical=False)
        .sign(key, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    _write(
        made.key,
        key.private_bytes(pem, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()),
    )
    _write(made.cert, cert.public_bytes(pem))


def _san(name: str) -> x509.GeneralName:
    try:
        return x509.IPAddress(ip_address(name))
    except ValueError:
        return x509.DNSName(name)


def _write(path: Path, content: bytes) -> None:
    """Whole or not at all, for nobody else to read."""
    half = path.with_suffix(".new")
    handle = os.open(half, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600)
    with os.fdopen(handle, "wb") as file:
        file.write(content)
    half.replace(path)
