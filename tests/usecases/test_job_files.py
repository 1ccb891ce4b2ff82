"""A job as one file: written, taken in elsewhere, brought together again; and files of others."""

import io
import json
import zipfile
from dataclasses import replace
from hashlib import sha256

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from plucky_ledger.core.entries.decisions import Decision
from plucky_ledger.core.job.job import Card
from plucky_ledger.core.job.parts import Part, Side, canonical
from plucky_ledger.core.pc.facts import Facts
from plucky_ledger.core.values.measures import Measure
from plucky_ledger.core.values.trouble import Refused, Trouble, TroubleCode
from plucky_ledger.exchange.job_file import (
    BOOK,
    FORMAT,
    SUMS,
    job_file_bytes,
    job_file_from,
)
from plucky_ledger.store.boots import recording_of
from plucky_ledger.store.entries import inventory
from plucky_ledger.store.job_parts import parts_of
from plucky_ledger.store.jobs import read_jobs
from plucky_ledger.store.ledger import Ledger
from plucky_ledger.usecases.changing.decisions import decide, decisions_in
from plucky_ledger.usecases.changing.postings import post
from plucky_ledger.usecases.jobs.job_files import (
    export_job,
    job_file_of,
    look_into,
    take_in_file,
)
from plucky_ledger.usecases.jobs.jobs import find_job, read_job, take_in
from plucky_ledger.usecases.jobs.undo import undo
from plucky_ledger.usecases.reading.entries import entries_known
from plucky_ledger.usecases.recording.boots import add_typed, set_boot_aside


@pytest.fixture
def bench(tmp_path):
    """Another bench."""
    with Ledger(tmp_path / "bench.ledger") as other:
        yield other


@pytest.fixture
def shared(demo, bench, tmp_path):
    """The demo's job at two benches: its numbers at each."""
    number = find_job(demo, "0417")
    return number, handed_over(demo, number, bench, tmp_path)


def handed_over(source, number, target, folder, chosen=None):
    path = folder / "job.plucky-job"
    export_job(source, number, path)
    return take_in_file(target, look_into(target, path), chosen).job


def looked_into(source, number, target, folder):
    path = folder / "job.plucky-job"
    export_job(source, number, path)
    return look_into(target, path)


def kept_inventory(ledger, number):
    """What the next recording of a job is compared with."""
    with ledger.session() as session:
        return inventory(session, number)


def parts(ledger, number):
    with ledger.session() as session:
        return parts_of(session, number)


def named(ledger, number, name):
    return [entry for entry in entries_known(ledger, number) if entry.name == name]


def decided(ledger, number, entry_id):
    one = decisions_in(ledger, number)[entry_id]
    return one.decision, one.reason


def as_it_stands(ledger, number):
    """A job without what is one ledger's own, and the bytes of its recordings."""
    job = read_job(ledger, number)
    with ledger.session() as session:
        recordings = [recording_of(session, boot.number) for boot in job.boots]
    rounds = [[replace(boot, number=0) for boot in boots] for boots in job.rounds]
    postings = [replace(one, number=0, strikes_out=None, boots=()) for one in job.postings]
    return job.card, job.facts, job.advised, postings, rounds, recordings


def test_a_job_is_the_same_at_another_bench_and_undone_in_one_step(demo, bench, shared):
    number, there = shared
    assert as_it_stands(bench, there) == as_it_stands(demo, number)
    assert decisions_in(bench, there) == decisions_in(demo, number)
    assert job_file_bytes(job_file_of(bench, there)) == job_file_bytes(job_file_of(demo, number))
    assert kept_inventory(bench, there) == kept_inventory(demo, number) is not None
    undo(bench, None)
    with pytest.raises(Trouble):
        read_job(bench, there)


def test_what_each_went_on_with_comes_together(demo, bench, shared, tmp_path):
    number, there = shared
    decide(demo, number, named(demo, number, "TideClock Sync"), Decision.OFF, "not read")
    add_typed(demo, number, {Measure.SETTLED: 50.0})
    decide(bench, there, named(bench, there, "Pilotcard Reader"), Decision.LATER, "cards can wait")
    (first, *_) = read_job(bench, there).opening_boots
    set_boot_aside(bench, there, first.number, "a guest was signed in")
    before = parts(demo, number)
    incoming = looked_into(bench, there, demo, tmp_path)
    assert incoming.conflicts == ()
    take_in_file(demo, incoming)
    assert decided(demo, number, "tideclock-sync") == (Decision.OFF, "not read")
    assert decided(demo, number, "pilotcard-reader.service") == (Decision.LATER, "cards can wait")
    job = read_job(demo, number)
    assert job.opening_boots[0].set_aside == "a guest was signed in"
    assert any(boot.readings.get(Measure.SETTLED).value == 50.0 for boot in job.boots)
    again = looked_into(bench, there, demo, tmp_path)
    assert (again.conflicts, again.brings) == ((), 0)
    handed_over(demo, number, bench, tmp_path)
    assert as_it_stands(bench, there) == as_it_stands(demo, number)
    undo(demo, number)
    now = parts(demo, number)
    assert {one: now[one].content for one in before} == {
        one: part.content for one, part in before.items()
    }


@pytest.mark.parametrize("side", [*Side, None])
def test_what_both_changed_is_chosen_once(demo, bench, shared, tmp_path, side):
    number, there = shared
    clock = "decision:tideclock-sync"
    decide(demo, number, named(demo, number, "TideClock Sync"), Decision.OFF, "not read")
    decide(bench, there, named(bench, there, "TideClock Sync"), Decision.KEEP, "read daily")
    incoming = looked_into(bench, there, demo, tmp_path)
    assert clock in {conflict.identity for conflict in incoming.conflicts}
    take_in_file(demo, incoming, {one.identity: side for one in incoming.conflicts} if side else {})
    theirs = side is Side.THEIRS
    wanted = (Decision.KEEP, "read daily") if theirs else (Decision.OFF, "not read")
    assert decided(demo, number, "tideclock-sync") == wanted
    assert looked_into(bench, there, demo, tmp_path).conflicts == ()
    back = looked_into(demo, number, bench, tmp_path)
    assert clock not in {conflict.identity for conflict in back.conflicts}
    take_in_file(bench, back)
    assert decided(bench, there, "tideclock-sync") == wanted


def test_postings_of_two_benches_stand_in_their_order(demo, bench, tmp_path):
    number = find_job(demo, "0417")
    post(demo, number)
    there = handed_over(demo, number, bench, tmp_path)
    for ledger, job, name, figure in (
        (bench, there, "Brassrail Till", 44.0),
        (demo, number, "Pilotcard Reader", 50.0),
    ):
        decide(ledger, job, named(ledger, job, name), Decision.LATER, "opens at ten")
        post(ledger, job)
        add_typed(ledger, job, {Measure.SETTLED: figure})
    before = as_it_stands(demo, number)
    handed_over(bench, there, demo, tmp_path)
    job = read_job(demo, number)
    at = [posting.posted_at for posting in job.postings]
    assert at == sorted(at)
    figures = [[boot.readings[Measure.SETTLED].value for boot in one] for one in job.rounds]
    assert figures[-2:] == [[44.0], [50.0]]  # theirs came first, though ours was there
    assert handed_over(bench, there, demo, tmp_path) == number
    assert read_job(demo, number) == job
    undo(demo, number)
    assert as_it_stands(demo, number) == before


def test_a_label_that_is_anothers_here_is_a_new_one(demo, bench, tmp_path):
    take_in(bench, Card("0417", "Chandlery PC"), Facts())
    number = find_job(demo, "0417")
    there = handed_over(demo, number, bench, tmp_path)
    assert read_job(bench, there).card.label == "0418"
    assert read_job(bench, there).card.title == read_job(demo, number).card.title


def test_what_is_part_of_another_job_here_is_refused(demo, tmp_path):
    file = job_file_of(demo, find_job(demo, "0417"))
    path = tmp_path / "b.plucky-job"
    path.write_bytes(job_file_bytes(replace(file, uuid="another-job")))
    with pytest.raises(Refused) as refused:
        take_in_file(demo, look_into(demo, path))
    assert refused.value.code is TroubleCode.JOB_FILE_DAMAGED
    assert find_job(demo, "0417")


@pytest.fixture
def small(ledger, tmp_path):
    """A file of a small job, as bytes."""
    number = take_in(ledger, Card("0001", "Chandlery PC"), Facts())
    add_typed(ledger, number, {Measure.SETTLED: 61.0})
    return job_file_bytes(job_file_of(ledger, number))


def changed(data, **members):
    """The same with other members, and checksums that fit."""
    file = zipfile.ZipFile(io.BytesIO(data))
    contents = {name: file.read(name) for name in file.namelist()} | {
        {"book": BOOK}.get(name, name): content for name, content in members.items()
    }
    del contents[SUMS]
    lines = (f"{sha256(one).hexdigest()}  {name}\n" for name, one in contents.items())
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w") as archive:
        for name, content in {**contents, SUMS: "".join(lines).encode()}.items():
            archive.writestr(name, content)
    return packed.getvalue()


def book(data):
    return json.loads(zipfile.ZipFile(io.BytesIO(data)).read(BOOK))


def told(data):
    with pytest.raises(Refused) as refused:
        job_file_from(data, "a.plucky-job")
    return refused.value.code


def test_files_that_are_none_are_refused_with_their_reason(small):
    newer = {**book(small), "version": 99}
    assert told(changed(small, book=json.dumps(newer).encode())) is TroubleCode.JOB_FILE_NEWER
    other = {**book(small), "format": "another"}
    assert told(changed(small, book=json.dumps(other).encode())) is TroubleCode.NOT_A_JOB_FILE
    assert told(b"") is TroubleCode.NOT_A_JOB_FILE
    assert told(changed(small, book=b"[" * 100_000)) is TroubleCode.NOT_A_JOB_FILE
    assert told(changed(small, book=b'{"format": "%s"}' % FORMAT.encode())) is (
        TroubleCode.NOT_A_JOB_FILE
    )
    bomb = changed(small, **{"recordings/x": b""})
    assert told(bomb) is TroubleCode.JOB_FILE_DAMAGED  # named by another checksum
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(BOOK, b" " * (70 << 20))
    assert told(packed.getvalue()) is TroubleCode.NOT_A_JOB_FILE


def wrong_parts(parts):
    """Books that no ledger would hold."""
    (boot,) = [name for name in parts if name.startswith("boot:")]
    content = json.loads(parts[boot].content)
    for name, value in (
        ("posting", "of-another-job"),
        ("started_at", "yesterday"),
        ("how", "by magic"),
        ("marks", {"ready": "soon"}),
        ("marks", []),
        ("set_aside", 5),
    ):
        yield {**parts, boot: replace(parts[boot], content=canonical({**content, name: value}))}
    derived = json.loads(parts[boot].derived)
    for name, value in (
        ("recording", "f" * 64),
        ("readings", {"settled": "61"}),
        ("method", "newest"),
    ):
        yield {**parts, boot: replace(parts[boot], derived=canonical({**derived, name: value}))}
    yield {name: part for name, part in parts.items() if name != "card"}
    yield {**parts, "magic:x": Part(identity="magic:x", content=canonical({}))}
    yield {**parts, "decision:x": Part(identity="decision:x", content=canonical({"x": 1}))}
    yield {**parts, "typed:x": Part(identity="typed:x", content=canonical({}))}
    yield {**parts, "aside:x": Part(identity="aside:x", content=canonical({}))}
    yield {**parts, "posting:x": Part(identity="posting:x", content=canonical({"title": 5}))}


def test_what_no_ledger_would_hold_is_refused_and_nothing_is_changed(small, bench, tmp_path):
    file = job_file_from(small, "a")
    path = tmp_path / "wrong.plucky-job"
    tried = 0
    for parts_of_it in wrong_parts(file.parts):
        path.write_bytes(job_file_bytes(replace(file, parts=parts_of_it)))
        with pytest.raises(Refused) as refused:
            take_in_file(bench, look_into(bench, path))
        assert refused.value.code is TroubleCode.JOB_FILE_DAMAGED, parts_of_it
        with bench.session() as session:
            assert read_jobs(session) == ()
        tried += 1
    assert tried > 12


def test_what_a_part_says_beyond_its_kind_reaches_no_column(small, bench, tmp_path):
    file = job_file_from(small, "a")
    path = tmp_path / "more.plucky-job"
    card = json.loads(file.parts["card"].content)
    for more in ({"number": 77}, {"uuid": "another"}, {"pc": "[]"}, {"label": "0009"}):
        told = replace(file.parts["card"], content=canonical({**card, **more}))
        path.write_bytes(job_file_bytes(replace(file, parts={**file.parts, "card": told})))
        number = take_in_file(bench, look_into(bench, path)).job
        assert number == 1
        assert job_file_of(bench, number).uuid == file.uuid
        assert read_job(bench, number).card == Card("0001", "Chandlery PC")


@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_a_damaged_file_is_whole_or_refused(small, data):
    place = data.draw(st.integers(0, len(small) - 1))
    damaged = bytearray(small)
    damaged[place] ^= data.draw(st.integers(1, 255))
    cut = data.draw(st.sampled_from([None, place]))
    try:
        read = job_file_from(bytes(damaged[:cut]), "a")
    except Refused:
        return
    assert read == job_file_from(small, "a")
