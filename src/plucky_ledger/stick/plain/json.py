"""JSON of values with fields: written byte for byte as msgspec does, and read as strictly."""

import json
from collections.abc import Callable, Iterable
from enum import Enum
from json.encoder import encode_basestring
from typing import Any, Generic, TypeVar

from plucky_ledger.stick.plain.kinds import Reader, reader_of
from plucky_ledger.stick.plain.values import DecodeError, Struct

Kind = TypeVar("Kind")
Writer = Callable[[Any], str]
INFINITE = ("inf", "-inf", "nan")


def encode(value: object) -> bytes:
    """A value as JSON. Raises TypeError for what has no form there."""
    return _written(value).encode()


class Encoder:
    """Writes values as JSON."""

    def encode(self, value: object) -> bytes:
        """One value. Raises TypeError for what has no form there."""
        return _written(value).encode()


class Decoder(Generic[Kind]):
    """Reads values of one kind."""

    def __init__(self, kind: Any = Any) -> None:
        self._reader: Reader = reader_of(kind)

    def decode(self, data: bytes) -> Kind:
        """One value. Raises DecodeError and UnicodeDecodeError."""
        try:
            plain = json.loads(bytes(data).decode(), parse_constant=_no_constant)
        except UnicodeDecodeError:
            raise
        except ValueError as error:
            raise DecodeError(str(error)) from error
        found: Kind = self._reader(plain)
        return found


def decode(data: bytes, *, type: Any = Any) -> Any:  # noqa: A002 it is called so
    """One value of a kind. Raises DecodeError and UnicodeDecodeError."""
    return Decoder[Any](type).decode(data)


def _no_constant(name: str) -> object:
    raise ValueError(f"{name} is no figure")


def _written(value: Any) -> str:
    kind = type(value)
    writer = _WRITERS.get(kind)
    if writer is None:
        writer = _WRITERS[kind] = _writer_of(kind)
    return writer(value)


def _writer_of(kind: type[Any]) -> Writer:
    if issubclass(kind, Struct):
        return _writer_of_struct(kind)
    if issubclass(kind, Enum):
        return lambda value: _written(value.value)
    raise TypeError(f"{kind.__name__} has no form in JSON")


def _writer_of_struct(kind: type[Struct]) -> Writer:
    names, config = kind.__struct_fields__, kind.__struct_config__
    if config.array_like:
        return lambda value: _list(getattr(value, name) for name in names)
    tag = [f'"{config.tag_field}":{encode_basestring(config.tag)}'] if config.tag else []
    heads = [(name, f'"{name}":') for name in names]

    def write(value: Struct) -> str:
        parts = [f"{head}{_written(getattr(value, name))}" for name, head in heads]
        return f"{{{','.join([*tag, *parts])}}}"

    return write


def _list(values: Iterable[Any]) -> str:
    return f"[{','.join(map(_written, values))}]"


def _dict(value: dict[Any, Any]) -> str:
    parts = (f"{encode_basestring(name)}:{_written(one)}" for name, one in value.items())
    return f"{{{','.join(parts)}}}"


def _float(value: float) -> str:
    text = repr(value)
    if "e" not in text:
        return "null" if text in INFINITE else text
    digits, exponent = text.split("e")
    if exponent == "-05":
        minus = "-" if value < 0 else ""
        return f"{minus}0.0000{digits.lstrip('-').replace('.', '')}"
    return f"{digits}e{int(exponent)}"


_WRITERS: dict[type[Any], Writer] = {
    str: encode_basestring,
    int: str,
    bool: lambda value: "true" if value else "false",
    type(None): lambda _value: "null",
    float: _float,
    tuple: _list,
    list: _list,
    dict: _dict,
}
