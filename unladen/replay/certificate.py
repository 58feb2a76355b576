"""A throw-away certificate for the hosts of a capture, trusted by its key alone."""

from __future__ import annotations

import base64
import datetime
import hashlib
import ssl
import tempfile
from pathlib import Path

from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID


def self_signed(hosts: list[str]) -> tuple[bytes, bytes, bytes]:
    """A certificate for these hosts that is its own authority and its key, both as PEM, and its public key as DER."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "replay")])
    now = datetime.datetime.now(datetime.UTC)
    certificate = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - datetime.timedelta(days=1))
        .not_valid_after(now + datetime.timedelta(days=30))
        .add_extension(x509.SubjectAlternativeName([x509.DNSName(host) for host in hosts]), False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), True)
        .sign(key, hashes.SHA256())
    )
    pem = serialization.Encoding.PEM
    private = key.private_bytes(pem, serialization.PrivateFormat.PKCS8, serialization.NoEncryption())
    public = key.public_key().public_bytes(
        serialization.Encoding.DER, serialization.PublicFormat.SubjectPublicKeyInfo
    )
    return certificate.public_bytes(pem), private, public


def server_context(hosts: list[str], *, http2: bool) -> tuple[ssl.SSLContext, str]:
    """A TLS context for these hosts and the base64 SHA-256 of its public key, as Chromium wants it."""
    certificate, private, public = self_signed(hosts)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    with tempfile.TemporaryDirectory() as folder:
        chain = Path(folder) / "chain.pem"
        chain.write_bytes(certificate + private)
        context.load_cert_chain(chain)
    context.set_alpn_protocols(["h2", "http/1.1"] if http2 else ["http/1.1"])
    return context, base64.b64encode(hashlib.sha256(public).digest()).decode()
