"""Certificates for tests."""

from __future__ import annotations

from pathlib import Path

from unladen.replay.certificate import self_signed


def certificate_files(folder: Path, name: str) -> tuple[Path, Path]:
    """A certificate that is its own authority, and its key, as PEM files."""
    certificate, key, _ = self_signed([name])
    pem, secret = folder / "certificate.pem", folder / "key.pem"
    pem.write_bytes(certificate)
    secret.write_bytes(key)
    return pem, secret
