"""What was learned of programs as one file, to be handed on: JSON, signed where that is wanted.

Described in docs/formats/learned.md. Signatures are Ed25519 (RFC 8032), over the canonical JSON of
everything else in the file.
"""

import base64
import json
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import Annotated

import msgspec

from plucky_ledger.core.book.learned import ProgramLearned
from plucky_ledger.core.values.trouble import Refused, TroubleCode
from plucky_ledger.exchange.chosen_file import read_chosen

FORMAT, VERSION = "plucky-ledger learned", 1
LARGEST_BYTES = 16 << 20
MOST_PROGRAMS = 50_000
Name = Annotated[str, msgspec.Meta(max_length=200)]


class _Signature(msgspec.Struct, frozen=True):
    key: Name
    """The public key, base64."""
    signature: Name


class _File(msgspec.Struct, frozen=True):
    format: str
    version: int
    workshop: Name
    made_on: Name
    programs: Annotated[list[ProgramLearned], msgspec.Meta(max_length=MOST_PROGRAMS)]
    signed: _Signature | None = None


@dataclass(frozen=True)
class LearnedFile:
    """What is in such a file."""

    workshop: str
    """What whoever made it calls itself; it may be anything."""
    made_on: str
    """ISO 8601, a day."""
    programs: tuple[ProgramLearned, ...]
    signed_by: str = ""
    """Fingerprint of the key that signed it; empty where nobody did."""


def learned_bytes(file: LearnedFile, key: bytes = b"") -> bytes:
    """The bytes of a file, signed with a private key (PEM) where there is one. Raises Refused."""
    told = _File(FORMAT, VERSION, file.workshop, file.made_on, list(file.programs))
    if key:
        told = msgspec.structs.replace(told, signed=_signed(told, key))
    return msgspec.json.format(msgspec.json.encode(told), indent=1) + b"\n"


def read_learned(path: Path) -> LearnedFile:
    """Read a file of somebody else. Raises Refused where it is none, or not as it was signed."""
    return learned_from(read_chosen(path, LARGEST_BYTES), path.name)


def learned_from(data: bytes, name: str) -> LearnedFile:
    """The same from its bytes."""
    try:
        told = msgspec.json.decode(data, type=_File)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise Refused(TroubleCode.NOT_LEARNED, name=name) from error
    if told.format != FORMAT or told.version != VERSION:
        raise Refused(TroubleCode.NOT_LEARNED, name=name)
    signed_by = _verified(told, name) if told.signed is not None else ""
    return LearnedFile(told.workshop, told.made_on, tuple(told.programs), signed_by)


def new_key() -> bytes:
    """A private key to sign with, PEM. Raises Refused where the package for it is missing."""
    with _cryptography():
        from cryptography.hazmat.primitives import serialization
        from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
    return Ed25519PrivateKey.generate().private_bytes(
        serialization.Encoding.PEM,
        serialization.PrivateFormat.PKCS8,
        serialization.NoEncryption(),
    )


class _cryptography:  # noqa: N801 read as a statement
    """The package may be missing. Raises Refused."""

    def __enter__(self) -> None:
        return None

    def __exit__(self, kind: object, error: BaseException | None, _trace: object) -> None:
        if isinstance(error, ImportError):
            raise Refused(
                TroubleCode.PACKAGE_MISSING, package="cryptography", extra="workshop"
            ) from error


def _canonical(told: _File) -> bytes:
    plain = msgspec.to_builtins(msgspec.structs.replace(told, signed=None))
    return json.dumps(plain, sort_keys=True, separators=(",", ":")).encode()


def _signed(told: _File, key: bytes) -> _Signature:
    with _cryptography():
        from cryptography.hazmat.primitives import serialization
        from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PrivateKey
    try:
        private = serialization.load_pem_private_key(key, None)
    except (ValueError, TypeError) as error:
        raise Refused(TroubleCode.NOT_A_KEY) from error
    if not isinstance(private, Ed25519PrivateKey):
        raise Refused(TroubleCode.NOT_A_KEY)
    public = private.public_key().public_bytes_raw()
    signature = private.sign(_canonical(told))
    return _Signature(base64.b64encode(public).decode(), base64.b64encode(signature).decode())


def _verified(told: _File, name: str) -> str:
    """Fingerprint of the key that signed it. Raises Refused where that does not fit."""
    assert told.signed is not None
    with _cryptography():
        from cryptography.exceptions import InvalidSignature
        from cryptography.hazmat.primitives.asymmetric.ed25519 import Ed25519PublicKey
    try:
        public = base64.b64decode(told.signed.key, validate=True)
        signature = base64.b64decode(told.signed.signature, validate=True)
        Ed25519PublicKey.from_public_bytes(public).verify(signature, _canonical(told))
    except (ValueError, InvalidSignature) as error:
        raise Refused(TroubleCode.SIGNATURE_DOES_NOT_FIT, name=name) from error
    return sha256(public).hexdigest()[:16]
