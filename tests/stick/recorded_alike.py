"""Run as a program, by the installed modules and by the stick's: records, and reads and writes.

python recorded_alike.py [STICK] FOLDER RECORDING…
"""

import gzip
import sys
from pathlib import Path

*stick, folder, _ = [word for word in sys.argv[1:] if not word.endswith(".jsonl.gz")] + [""]
sys.path[:0] = [*stick, str(Path(__file__).parents[2])]

import msgspec  # noqa: E402

import plucky_ledger  # noqa: E402 on the stick it brings what an older Python lacks
from plucky_ledger.capture.sampling.recorder import record  # noqa: E402
from plucky_ledger.recording.lines import Line  # noqa: E402
from plucky_ledger.recording.writer import RecordingWriter  # noqa: E402
from tests.helpers.real_pc import PlayedBack  # noqa: E402

assert plucky_ledger.CARRIED is bool(stick)
assert (msgspec.__file__ or "").startswith(stick[0] if stick else "/")
source = PlayedBack()
with RecordingWriter(Path(folder) / "played.jsonl.gz") as writer:
    record(source, source, writer, for_seconds=600.0)
decoder, encoder = msgspec.json.Decoder(Line), msgspec.json.Encoder()
with (Path(folder) / "again.jsonl").open("wb") as again:
    for name in sys.argv[1:]:
        if name.endswith(".jsonl.gz"):
            with gzip.open(name) as file:
                for raw in file:
                    again.write(encoder.encode(decoder.decode(raw)) + b"\n")
