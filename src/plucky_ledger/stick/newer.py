"""What our modules use of the standard library since Python 3.9, where an older one lacks it.

On the stick this is loaded before any of them. It adds to the standard library in our own process
alone; a newer Python is left as it is.
"""

import dataclasses
import datetime
import enum
import platform
import shlex
import sys
import typing
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

OS_RELEASE = ("/etc/os-release", "/usr/lib/os-release")
Kind = TypeVar("Kind")


def add_what_is_missing() -> None:
    """Once, at the very beginning."""
    if sys.version_info < (3, 10):
        dataclasses.dataclass = dataclass
        platform.freedesktop_os_release = os_release
    if sys.version_info < (3, 11):
        enum.StrEnum = StrEnum
        datetime.UTC = datetime.timezone.utc
        typing.Self = Any


class StrEnum(str, enum.Enum):
    """An enumeration of texts, as enum.StrEnum of 3.11 is."""

    def __str__(self) -> str:
        return str(self.value)

    def __format__(self, form: str) -> str:
        return format(str(self.value), form)


_before = dataclasses.dataclass


def dataclass(kind: type[Any] | None = None, **wishes: Any) -> Any:
    """dataclasses.dataclass with ``kw_only`` and ``slots``, as of 3.10."""
    by_name = wishes.pop("kw_only", False)
    wishes.pop("slots", None)

    def made(of: type[Kind]) -> type[Kind]:
        if not by_name:
            return _before(**wishes)(of)
        whole = _before(**wishes, init=False)(of)
        type.__setattr__(whole, "__init__", _init_by_name(whole))
        return whole

    return made if kind is None else made(kind)


def _init_by_name(kind: type[Any]) -> Callable[..., None]:
    fields = dataclasses.fields(kind)

    def init(self: Any, **given: Any) -> None:
        for field in fields:
            if field.name in given:
                value = given.pop(field.name)
            elif field.default is not dataclasses.MISSING:
                value = field.default
            elif field.default_factory is not dataclasses.MISSING:
                value = field.default_factory()
            else:
                raise TypeError(f"{kind.__name__} needs {field.name}")
            object.__setattr__(self, field.name, value)
        if given:
            raise TypeError(f"{kind.__name__} has no {', '.join(given)}")

    return init


def os_release() -> dict[str, str]:
    """What the system calls itself, as os-release(5) has it. Raises OSError."""
    for path in OS_RELEASE:
        if Path(path).exists():
            lines = Path(path).read_text("utf-8", "replace").splitlines()
            pairs = (line.partition("=") for line in lines if not line.startswith("#"))
            return {name: " ".join(shlex.split(value)) for name, _, value in pairs if value}
    raise OSError("no os-release")
