"""What the recorder needs of msgspec, in plain Python: on the stick it goes by that name.

The bytes are the same. It checks what it reads as strictly, and is slower.
"""

from plucky_ledger.stick.plain import json, structs
from plucky_ledger.stick.plain.values import DecodeError, Meta, Struct, ValidationError

__all__ = ["DecodeError", "Meta", "Struct", "ValidationError", "json", "structs"]
