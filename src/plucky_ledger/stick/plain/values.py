"""Values with fields."""

import sys
from dataclasses import Field, dataclass, field, fields
from typing import Any, ClassVar, NamedTuple

MUTABLE = (dict, list, set)


class DecodeError(Exception):
    """These bytes are no JSON."""


class ValidationError(DecodeError):
    """They are, but of something else than was asked for."""


@dataclass(frozen=True)
class Meta:
    """Bounds of a value."""

    ge: float | None = None
    le: float | None = None
    max_length: int | None = None


class StructConfig(NamedTuple):
    """How a kind of value is written."""

    tag: str | None
    tag_field: str
    array_like: bool


class Struct:
    """A value with named fields, which a subclass annotates."""

    __struct_fields__: ClassVar[tuple[str, ...]] = ()
    __struct_config__: ClassVar[StructConfig] = StructConfig(None, "type", array_like=False)

    def __init_subclass__(
        cls,
        frozen: bool = False,
        tag: str | None = None,
        tag_field: str = "type",
        array_like: bool = False,
    ) -> None:
        """Make the subclass a dataclass, with the fields that it annotates."""
        for name, default in list(vars(cls).items()):
            if isinstance(default, MUTABLE) and not name.startswith("__"):
                setattr(cls, name, field(default_factory=type(default)))
        # Nobody changes a frozen one; that each is guarded against it would take twice as long.
        dataclass(unsafe_hash=frozen)(cls)
        cls.__struct_fields__ = tuple(fields_of(cls))
        cls.__struct_config__ = StructConfig(tag, tag_field, array_like)


def fields_of(kind: type[Any]) -> dict[str, Field[Any]]:
    """The fields of a kind of value, by name."""
    return {one.name: one for one in fields(kind)}


def module_of(kind: type[Any]) -> dict[str, Any]:
    """The names that the annotations of a kind of value are written in."""
    return vars(sys.modules[kind.__module__])
