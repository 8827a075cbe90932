"""Jobs as files on the pages: one job written to a file; a file's jobs looked at, taken in."""

from __future__ import annotations

import hashlib
import re
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import ExitStack
from pathlib import Path

from flask import (
    Blueprint,
    Response,
    abort,
    current_app,
    redirect,
    render_template,
    request,
    send_file,
    stream_with_context,
    url_for,
)
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session
from werkzeug.datastructures import FileStorage

from cold_arc.core import law
from cold_arc.core.beam.report import beam_of
from cold_arc.core.job.entries.kind import Phase
from cold_arc.core.job.entries.readings import Rastered
from cold_arc.core.job.filed import FiledJob, FiledJobError
from cold_arc.core.job.tables import TABLES
from cold_arc.core.match import measuring
from cold_arc.core.metering.raster import raster
from cold_arc.formats import WRITERS, job_file, readings, spreadsheet
from cold_arc.store import job_files, jobs, shop_file, tables
from cold_arc.store.job_files import Incoming
from cold_arc.store.owned import OWNER_ONLY
from cold_arc.web.job.stage_page import after_save
from cold_arc.web.shell.db import session, writable

bp = Blueprint("files", __name__)
INCOMING = "incoming"
SUM = re.compile(r"[0-9a-f]{64}")
# What became of a job of a file, before and after it is taken in.
WORDS = {
    job_files.NEW: "new here",
    job_files.SAME: "here already, the same",
    job_files.OLDER: "here already, and further on",
    job_files.GOES_ON: "here already; what was added elsewhere is added",
    job_files.APART: "here already, and both went on apart: left as it is",
}


@bp.get("/jobs/<int:job_id>/job.zip")
def export(job_id: int) -> Response:
    """One job as a file."""
    job = jobs.load(session(), job_id)
    if job is None:
        abort(404)
    held = ExitStack()
    path = Path(held.enter_context(tempfile.TemporaryDirectory())) / "job.zip"
    filed = with_beside(session(), [job_id], with_beams=False)
    with path.open("wb") as to:
        for _ in job_file.write(to, filed, 1, jobs.now()):
            pass
    name = re.sub(r"[^\w-]", "-", job.booking.reference) or str(job_id)
    answer = send_file(path, "application/zip", as_attachment=True, download_name=f"{name}.zip")
    answer.call_on_close(held.close)
    return answer


def with_beside(
    opened: Session, numbers: Iterable[int], with_beams: bool
) -> Iterator[tuple[FiledJob, dict[str, bytes]]]:
    """Jobs as a file takes them, one after the other, each with what stands beside it."""
    for number in numbers:
        job = jobs.load(opened, number)
        if job is not None:
            yield job_files.filed(opened, number), beside_of(job, with_beams)


def beside_of(job: jobs.Job, with_beams: bool) -> dict[str, bytes]:
    """What stands beside a job in a file for other programs: its readings, and its beams."""
    return _readings_of(job) | (_beams_of(job) if with_beams else {})


def _beams_of(job: jobs.Job) -> dict[str, bytes]:
    """A job's beams as IES files by name: predicted with its own and its chosen source, and as
    rastered.
    """
    written, traffic = {}, law.traffic_of(job.booking.market)
    for beam in job.record.road_beams:
        setups = measuring.setups(job.record, job.booking, beam, traffic)
        for phase, setup in zip(Phase, setups, strict=True):
            title = f"{job.booking.reference} {beam} {phase}"
            if setup is not None:
                name = f"beams/{beam}-{phase}-predicted.ies"
                written[name] = WRITERS[".ies"](beam_of(setup), f"{title}, predicted")
            taken = [r for r in job.record.all(Rastered, beam) if r.phase == phase]
            if taken:
                measured = raster(taken[-1].readings).beam(traffic)
                name = f"beams/{beam}-{phase}-measured.ies"
                written[name] = WRITERS[".ies"](measured, f"{title}, measured")
    return written


def _readings_of(job: jobs.Job) -> dict[str, bytes]:
    """Every reading of a job as one table by its name, for a spreadsheet; none where nothing was
    read.
    """
    tables: list[str] = []
    for beam in job.record.road_beams:
        for phase in Phase:
            taken = job.record.readings(beam, phase)
            if taken:
                head, *rows = readings.write_csv(taken.values()).decode().splitlines()
                tables += [f"beam,phase,{head}"] if not tables else []
                tables += [f"{beam},{phase},{row}" for row in rows if row]
    return {"readings.csv": ("\n".join(tables) + "\n").encode()} if tables else {}


@bp.get("/shop/tables/<name>.csv")
def table(name: str) -> Response:
    """One table over all jobs, for a spreadsheet, written as it is read."""
    asked = TABLES.get(name)
    if asked is None:
        abort(404)
    written = spreadsheet.lines(asked.columns, tables.rows(session(), asked))
    headers = {"Content-Disposition": f'attachment; filename="{name}.csv"'}
    return Response(
        stream_with_context(written), mimetype="text/csv; charset=utf-8", headers=headers
    )


@bp.route("/shop/take-in", methods=["GET", "POST"])
def take_in() -> ResponseReturnValue:
    """Looks at a file's jobs, and takes them in once that was seen."""
    incoming: list[Incoming] = []
    wrong, digest, shop = "", "", shop_file.ShopHeld()
    try:
        if request.form.get("do") == "take":
            return _taken(request.form.get("sum", ""))
        if request.method == "POST":
            digest = _kept(request.files.get("file"))
            incoming = job_files.look(session(), job_file.read(_path(digest)))
            shop = shop_file.held(job_file.read_shop(_path(digest)) or {})
    except FiledJobError as error:
        wrong = str(error)
        if digest:
            _path(digest).unlink(missing_ok=True)
    page = render_template(
        "take_in.html", wrong=wrong, incoming=incoming, digest=digest, words=WORDS, shop=shop
    )
    return page, 422 if wrong else 200


def _kept(upload: FileStorage | None) -> str:
    """Keeps a file that was sent, by its sum; FiledJobError where none was."""
    data = upload.read() if upload else b""
    if not data:
        raise FiledJobError("Choose a job file first.")
    digest = hashlib.sha256(data).hexdigest()
    folder = _path(digest).parent
    folder.mkdir(exist_ok=True)
    for left in folder.glob("*.zip"):
        left.unlink(missing_ok=True)
    _path(digest).touch(OWNER_ONLY)
    _path(digest).write_bytes(data)
    return digest


def _path(digest: str) -> Path:
    """Where a file of that sum is kept meanwhile; FiledJobError for what is no sum."""
    if not SUM.fullmatch(digest):
        raise FiledJobError("Choose the file again.")
    folder: Path = current_app.extensions["cold_arc_folder"]
    return folder / INCOMING / f"{digest}.zip"


def _taken(digest: str) -> ResponseReturnValue:
    path = _path(digest)
    if not path.exists():
        raise FiledJobError("Choose the file again.")
    came: list[Incoming] = list(job_files.take_in(writable(anyway=True), job_file.read(path)))
    besides = shop_file.take_in(writable(), job_file.read_shop(path) or {})
    writable().commit()
    path.unlink(missing_ok=True)
    counted = sum(each.state in (job_files.NEW, job_files.GOES_ON) for each in came)
    new = f" New besides: {besides.words}." if besides.words else ""
    after_save(f"{counted} of {len(came)} taken in; the others are here as they are.{new}")
    return redirect(url_for("home.page"), 303)
