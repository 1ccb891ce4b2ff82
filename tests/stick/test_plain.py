"""The stand-in for msgspec against the original: the same bytes, the same refusals."""

import importlib
import json
import sys

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plucky_ledger.recording import condition, history, lines
from plucky_ledger.stick import plain

MODULES = (history, condition, lines)
VALUES = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(),
    lambda inner: st.lists(inner) | st.dictionaries(st.text(), inner) | st.tuples(inner, inner),
)
SAMPLE = {
    "kind": "sample",
    "seconds": 1.5,
    "cpu_seconds": 2,
    "disk_read_bytes": 3,
    "disk_written_bytes": 4,
    "disk_busy_seconds": 0.5,
    "memory_held_bytes": 5,
    "processes": 6,
}
PROGRAMS = {"kind": "programs", "seconds": 2.0, "rows": [[1, 0.5, 7], [2, 1, 8, None, 9]]}
NOTE = {"kind": "note", "said": {"code": "a_code", "facts": {"n": 1, "of": 2.5, "who": "ä"}}}
ENTRY = {"kind": "entry", "entry": "a", "name": "b", "owner": "user", "starts": "timer"}
KNOWN = (SAMPLE, PROGRAMS, NOTE, ENTRY)


@pytest.fixture(scope="module")
def carried():
    """The kinds of line as the stick has them."""
    kept = {name: sys.modules[name] for name in ("msgspec", *(one.__name__ for one in MODULES))}
    sys.modules["msgspec"] = plain
    for module in MODULES:
        del sys.modules[module.__name__]
    there = importlib.import_module(lines.__name__)
    assert there is not lines
    assert issubclass(there.SampleLine, plain.Struct)
    yield plain.json.Decoder(there.Line)
    sys.modules.update(kept)
    for module in MODULES:
        package, _, name = module.__name__.rpartition(".")
        setattr(sys.modules[package], name, module)


@given(VALUES)
def test_every_value_is_written_alike(value):
    try:
        expected = msgspec.json.encode(value)
    except (UnicodeEncodeError, OverflowError):
        with pytest.raises(UnicodeEncodeError):
            plain.json.encode(value)
    else:
        assert plain.json.encode(value) == expected


def read_and_written(decoder, encode, refused, data):
    try:
        return encode(decoder.decode(data))
    except (refused, UnicodeDecodeError):
        return None


@given(data=st.data())
def test_what_is_no_line_is_refused_alike(carried, data):
    """One field of a line is something else, is missing, or is there beside the others."""
    line = dict(data.draw(st.sampled_from(KNOWN)))
    name = data.draw(st.sampled_from([*line, "command", "timers", "runnable"]))
    if data.draw(st.booleans()):
        line.pop(name, None)
    else:
        odd = st.sampled_from([2**53, 2**54, -1, 1.0, "x" * 4096, "x" * 4097, True, [], {}, None])
        line[name] = data.draw(VALUES | odd)
    raw = json.dumps(line).encode()
    expected = read_and_written(
        msgspec.json.Decoder(lines.Line), msgspec.json.encode, msgspec.DecodeError, raw
    )
    assert read_and_written(carried, plain.json.encode, plain.DecodeError, raw) == expected


def test_what_is_a_line_is_taken(carried):
    for line in KNOWN:
        raw = json.dumps(line).encode()
        assert plain.json.encode(carried.decode(raw)).startswith(b'{"kind":')


@pytest.mark.parametrize(
    "raw", [b"", b"{", b"[]", b"null", b'"x"', b"\xff", b'{"kind":"sample"}', b"{}{}", b"NaN"]
)
def test_what_is_no_json_is_refused_alike(carried, raw):
    ours = read_and_written(carried, plain.json.encode, plain.DecodeError, raw)
    assert ours is None
    decoder = msgspec.json.Decoder(lines.Line)
    assert read_and_written(decoder, msgspec.json.encode, msgspec.DecodeError, raw) is None
