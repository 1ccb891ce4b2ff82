"""What a value that was read has to be, by how its kind is annotated."""

import ast
import types
from collections.abc import Callable
from dataclasses import MISSING, Field
from enum import Enum
from functools import cache
from typing import Annotated, Any, Union, get_args, get_origin

from plucky_ledger.stick.plain.values import Meta, Struct, ValidationError, fields_of, module_of

Reader = Callable[[Any], Any]
"""Takes what plain JSON holds; returns the value, or raises ValidationError."""


@cache
def reader_of(kind: Any) -> Reader:
    """What reads a kind of value."""
    origin, arguments = get_origin(kind), get_args(kind)
    if kind is Any or kind is object:
        return lambda plain: plain
    if origin is Annotated:
        return _bounded(reader_of(arguments[0]), arguments[1:])
    if origin is Union or isinstance(kind, getattr(types, "UnionType", ())):
        return _one_of(arguments)
    if origin is tuple:
        return _tuple(arguments)
    if origin is list:
        return _many(list, reader_of(arguments[0]))
    if origin is dict:
        return _dict(reader_of(arguments[0]), reader_of(arguments[1]))
    if _is_struct(kind):
        return _struct(kind)
    if isinstance(kind, type) and issubclass(kind, Enum):
        return _enum(kind)
    return _scalar(kind)


def _is_struct(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, Struct)


def _refuse(what: object) -> ValidationError:
    return ValidationError(f"{what} was expected")


def _scalar(kind: Any) -> Reader:
    """Text, a figure, a truth or nothing; a whole figure may stand for one with decimals."""
    wanted = type(None) if kind is None else kind

    def read(plain: Any) -> Any:
        if type(plain) is wanted:
            return plain
        if wanted is float and type(plain) is int:
            return float(plain)
        raise _refuse(wanted)

    return read


def _bounded(reader: Reader, bounds: tuple[Meta, ...]) -> Reader:
    def read(plain: Any) -> Any:
        value = reader(plain)
        for bound in bounds:
            if (
                (bound.max_length is not None and len(value) > bound.max_length)
                or (bound.ge is not None and not value >= bound.ge)
                or (bound.le is not None and not value <= bound.le)
            ):
                raise _refuse(bound)
        return value

    return read


def _one_of(kinds: tuple[Any, ...]) -> Reader:
    """One of several kinds, tried in turn; values with fields tell by their tag."""
    tagged: dict[object, Reader] = {
        kind.__struct_config__.tag: reader_of(kind)
        for kind in kinds
        if _is_struct(kind) and kind.__struct_config__.tag
    }
    if len(tagged) == len(kinds):
        tag_field = kinds[0].__struct_config__.tag_field

        def read_tagged(plain: Any) -> Any:
            tag = plain.get(tag_field) if isinstance(plain, dict) else None
            reader = tagged.get(tag) if isinstance(tag, str) else None
            if reader is None:
                raise _refuse(sorted(map(str, tagged)))
            return reader(plain)

        return read_tagged
    readers = [reader_of(kind) for kind in sorted(kinds, key=lambda kind: kind is float)]

    def read(plain: Any) -> Any:
        for reader in readers:
            try:
                return reader(plain)
            except ValidationError:
                continue
        raise _refuse(kinds)

    return read


def _many(make: type[Any], reader: Reader) -> Reader:
    def read(plain: Any) -> Any:
        if not isinstance(plain, list):
            raise _refuse("a list")
        return make([reader(one) for one in plain])

    return read


def _tuple(kinds: tuple[Any, ...]) -> Reader:
    if len(kinds) == 2 and kinds[1] is ...:
        return _many(tuple, reader_of(kinds[0]))
    readers = [reader_of(kind) for kind in kinds]

    def read(plain: Any) -> Any:
        if not isinstance(plain, list) or len(plain) != len(readers):
            raise _refuse(f"a list of {len(readers)}")
        return tuple([reader(one) for reader, one in zip(readers, plain)])  # noqa: B905 alike

    return read


def _dict(keys: Reader, values: Reader) -> Reader:
    def read(plain: Any) -> Any:
        if not isinstance(plain, dict):
            raise _refuse("an object")
        return {keys(name): values(value) for name, value in plain.items()}

    return read


def _enum(kind: type[Enum]) -> Reader:
    def read(plain: Any) -> Any:
        try:
            return kind(plain)
        except ValueError as error:
            raise _refuse(kind) from error

    return read


def _struct(kind: type[Struct]) -> Reader:
    readers: dict[str, Reader] = {}  # made when the first is read: a kind may be made of itself
    config, fields = kind.__struct_config__, fields_of(kind)
    needed = {name for name, one in fields.items() if not _has_default(one)}

    def read(plain: Any) -> Any:
        if not readers:
            names = module_of(kind)
            readers.update(
                (name, reader_of(meant(one.type, names))) for name, one in fields.items()
            )
        given = plain
        if config.array_like:
            if not isinstance(plain, list):
                raise _refuse("a list")
            given = dict(zip(fields, plain))  # noqa: B905 it may be shorter
        if not isinstance(given, dict) or not needed <= given.keys():
            raise _refuse(f"{kind.__name__} with {needed}")
        if config.tag and given.get(config.tag_field, config.tag) != config.tag:
            raise _refuse(config.tag)
        return kind(**{name: read(given[name]) for name, read in readers.items() if name in given})

    return read


def _has_default(field: Field[Any]) -> bool:
    return field.default is not MISSING or field.default_factory is not MISSING


def meant(annotation: Any, names: dict[str, Any]) -> Any:
    """The kind that an annotation names, which is text where it was not worked out.

    Python before 3.10 cannot work out ``float | None`` by itself.
    """
    if not isinstance(annotation, str):
        return annotation
    tree = ast.fix_missing_locations(_Unions().visit(ast.parse(annotation, mode="eval")))
    return eval(compile(tree, "annotation", "eval"), {**names, "Union": Union})  # noqa: S307 ours


class _Unions(ast.NodeTransformer):
    """Writes ``A | B`` as ``Union[A, B]``."""

    def visit_BinOp(self, node: ast.BinOp) -> ast.AST:
        """One ``|``."""
        self.generic_visit(node)
        if not isinstance(node.op, ast.BitOr):
            return node
        both = ast.Tuple([node.left, node.right], ast.Load())
        return ast.Subscript(ast.Name("Union", ast.Load()), both, ast.Load())
