"""What a process that works beams takes: under 200 MB with every kind of housing in it (own)."""

import json
import subprocess
import sys

from cold_arc.core.beam import compiler

MOST_MB = 200
EVERY_KIND = """
import json
from pathlib import Path
from cold_arc.core.beam import housings, model
from cold_arc.core.beam.setup import SetUp
from cold_arc.formats import picture

model.warm()
for kind in housings.KINDS:
    setup = SetUp(kind, source="led")
    housing, source = setup.built_housing(), setup.built_source()
    picture.render(model.illuminate(housing, setup.nominal, source, setup.conditions))
# getrusage counts what the process that began it took, too
lines = Path("/proc/self/status").read_text().splitlines()
peak_mb = next(int(line.split()[1]) for line in lines if line.startswith("VmHWM")) / 1024
print(json.dumps({"peak_mb": peak_mb, "given_back": model.compiler.give_back()}))
"""
# A library's four parts as Linux tells them: read, run, put right as it was loaded, written.
MAPS = """\
7000-8000 r--p 0 fe:00 1 /lib/libllvmlite.so
Rss: 4 kB
Anonymous: 0 kB
8000-a000 r-xp 0 fe:00 1 /lib/libllvmlite.so
Anonymous: 0 kB
a000-b000 r--p 0 fe:00 1 /lib/libllvmlite.so
Anonymous: 4 kB
b000-c000 rw-p 0 fe:00 1 /lib/libllvmlite.so
Anonymous: 0 kB
c000-d000 r-xp 0 fe:00 1 /lib/libother.so
Anonymous: 0 kB
d000-e000 rw-p 0 00:00 0
Anonymous: 0 kB
"""


def test_every_kind_of_housing_fits():
    """The peak, also: the compiler is out of memory before the first beam is worked."""
    command = [sys.executable, "-c", EVERY_KIND]
    figures = json.loads(subprocess.run(command, capture_output=True, check=True).stdout)
    assert figures["peak_mb"] < MOST_MB
    assert figures["given_back"] > 0


def test_only_what_stands_in_its_file_is_given_back(tmp_path, monkeypatch):
    """What was written to, or put right as it was loaded, is there once only."""
    maps = tmp_path / "smaps"
    maps.write_text(MAPS)
    monkeypatch.setattr(compiler, "_MAPS", maps)
    assert list(compiler._as_in_its_file()) == [(0x7000, 0x8000), (0x8000, 0xA000)]


def test_where_the_machine_does_not_say_nothing_is_given_back(tmp_path, monkeypatch):
    monkeypatch.setattr(compiler, "_MAPS", tmp_path / "none")
    assert compiler.give_back() == 0
