"""The house's key: sealed bags are signed with Ed25519 (RFC 8032), so that a forged one is
known.
"""

from __future__ import annotations

import base64
import binascii
import contextlib
import hashlib
import os
import secrets
from pathlib import Path

from cryptography.exceptions import InvalidSignature
from cryptography.hazmat.primitives import serialization
from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey, Ed25519PublicKey

from ..core.errors import AmpleError

KEY = "house-key.pem"


class SigningKey:
    """The private key of one house, kept in a folder that only its own processes read."""

    def __init__(self, private: Ed25519PrivateKey) -> None:
        self._private = private

    @classmethod
    def kept(cls, folder: Path) -> SigningKey:
        """Give the key of a folder, made at the first call.

        Raises:
            AmpleError: what lies there is no such key.
        """
        path = folder / KEY
        if not path.exists():
            _make(path)
        try:
            private = serialization.load_pem_private_key(path.read_bytes(), None)
        except ValueError:
            private = None
        if not isinstance(private, Ed25519PrivateKey):
            raise AmpleError(
                f"{path} is not an Ed25519 key.",
                "Put the house's own key back from a backup: bags are signed with it.",
            )
        return cls(private)

    @property
    def public_pem(self) -> bytes:
        """Give the public key as PEM, for whoever verifies bags."""
        return self._private.public_key().public_bytes(
            serialization.Encoding.PEM, serialization.PublicFormat.SubjectPublicKeyInfo
        )

    @property
    def mark(self) -> str:
        """Give the key's fingerprint: the SHA-256 of its public half, in hexadecimal."""
        return fingerprint(self.public_pem)

    def sign(self, data: bytes) -> str:
        """Sign bytes; the signature is 64 bytes in base64."""
        return base64.b64encode(self._private.sign(data)).decode()


def _make(path: Path) -> None:
    """Make a key under a name of its own, then give it the final name unless another was
    quicker.
    """
    pem = Ed25519PrivateKey.generate().private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )
    path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
    part = path.with_name(f".{path.name}.{secrets.token_hex(4)}")
    handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(pem)
            file.flush()
            os.fsync(file.fileno())
        with contextlib.suppress(FileExistsError):
            os.link(part, path)
    finally:
        part.unlink(missing_ok=True)


def fingerprint(public_pem: bytes) -> str:
    """Give the SHA-256 of a public key's 32 raw bytes, in hexadecimal.

    Raises:
        AmpleError: it is no Ed25519 public key.
    """
    raw = _public(public_pem).public_bytes(
        serialization.Encoding.Raw, serialization.PublicFormat.Raw
    )
    return hashlib.sha256(raw).hexdigest()


def verifies(public_pem: bytes, signature: str, data: bytes) -> bool:
    """Say whether a signature over data was made with the key of this public half."""
    try:
        _public(public_pem).verify(base64.b64decode(signature, validate=True), data)
    except (InvalidSignature, binascii.Error, AmpleError):
        return False
    return True


def _public(pem: bytes) -> Ed25519PublicKey:
    try:
        key = serialization.load_pem_public_key(pem)
    except ValueError:
        key = None
    if not isinstance(key, Ed25519PublicKey):
        raise AmpleError("This is no Ed25519 public key.", "Ask the sender for theirs as PEM.")
    return key
