"""The whole shop written to one file: begun, how far it is, stopped, fetched."""

from __future__ import annotations

from collections.abc import Callable
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
    url_for,
)
from flask.typing import ResponseReturnValue
from sqlalchemy.orm import Session

from cold_arc.formats import job_file
from cold_arc.store import job_files, jobs, shop_file
from cold_arc.store.owned import OWNER_ONLY
from cold_arc.web.job.files import with_beside
from cold_arc.web.shell import tasks
from cold_arc.web.shell.tasks import LongTask, Progress

bp = Blueprint("whole_shop", __name__)
OUTGOING, ASKED = "outgoing", "the whole shop"


def _folder() -> Path:
    folder: Path = current_app.extensions["cold_arc_folder"]
    return folder


def _name() -> object:
    return _folder(), ASKED


def _task() -> LongTask | None:
    return tasks.find(_name(), ASKED)


@bp.route("/shop/file", methods=["GET", "POST"])
def page() -> ResponseReturnValue:
    """Begins or stops the writing; shows how far it is."""
    wrong = ""
    if request.method == "POST":
        try:
            _do(request.form.get("do", ""))
            return redirect(url_for("whole_shop.page"), 303)
        except tasks.TooManyError as error:
            wrong = str(error)
    return render_template("shop_file.html", task=_task(), wrong=wrong), 422 if wrong else 200


def _do(pressed: str) -> None:
    task = _task()
    if pressed == "stop" and task is not None:
        task.stop()
    elif pressed == "begin":
        sessions = current_app.extensions["cold_arc_sessions"]
        tasks.start(_name(), ASKED, _writing(sessions, _folder() / OUTGOING))


@bp.get("/shop/file.zip")
def fetch() -> Response:
    """The file, once it is written."""
    task = _task()
    if task is None or task.answer is None or not task.answer.exists():
        abort(404)
    return send_file(task.answer, "application/zip", as_attachment=True, download_name="shop.zip")


def _writing(sessions: Callable[[], Session], folder: Path) -> tasks.Work:
    """Writes every job and the shop, bound to nothing of the request; the file takes its name when
    it is whole.
    """

    def work(progress: Progress) -> Path:
        folder.mkdir(exist_ok=True, mode=0o700)
        part = folder / "shop.part"
        part.unlink(missing_ok=True)
        part.touch(OWNER_ONLY)
        try:
            with sessions() as session, part.open("wb") as to:
                numbers = job_files.numbers_of(session, ())
                shop, every = shop_file.filed_shop(session), with_beside(session, numbers, False)
                for done in job_file.write(to, every, len(numbers), jobs.now(), shop):
                    progress(done / len(numbers))
            return part.replace(folder / "shop.zip")
        finally:
            part.unlink(missing_ok=True)

    return work
