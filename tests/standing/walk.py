"""Walks every kind of job anew, as its tests do, and writes what the standing answers are asked of:
a job's file each, of the walks, their re-checks and the demo.

python -m tests.standing.walk [--to tests/standing/jobs]

For a version whose jobs hold what those kept do not; the answers are renewed after it.
"""

from __future__ import annotations

import argparse
import tempfile
from pathlib import Path

from cold_arc.demo.garage import load_once
from cold_arc.formats import job_file
from cold_arc.store import job_files, jobs
from cold_arc.store.database import open_database
from tests.standing import kept
from tests.web.conftest import Client
from tests.web.test_walks import KINDS
from tests.web.walking import Walk


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--to", type=Path, default=kept.FOLDER)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        load_once(Path(folder))
        client = Client(Path(folder))
        for kind, lamps in KINDS.items():
            walk = Walk(client, lamps, kind.replace(", ", "-").replace(" ", "-"))
            walk.whole()
            walk.come_back()
            print(kind)
        with open_database(Path(folder))() as session:
            for number in job_files.numbers_of(session, []):
                job = job_files.filed(session, number)
                name = job.booking().reference.replace(", ", "-")
                with (options.to / f"{name}.zip").open("wb") as to:
                    list(job_file.write(to, [(job, {})], 1, jobs.now()))


if __name__ == "__main__":
    main()
