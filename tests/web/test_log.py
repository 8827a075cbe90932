"""What went wrong is in the data folder's log, under the number the page tells."""

import logging
import re
import stat

import pytest

from cold_arc.store import logbook
from cold_arc.store.logbook import FILE_NAME, open_log
from cold_arc.web.shell import home
from tests.robust.conftest import change, open_client


def test_the_number_on_the_error_page_is_found_in_the_log(demo_folder, monkeypatch):
    def breaks(*_args, **_kw):
        raise RuntimeError("the board fell over")

    client = open_client(demo_folder)
    monkeypatch.setattr(home.board, "lane", breaks)
    answer = client.get("/")
    assert answer.status_code == 500
    number = re.search(r"number ([0-9A-F]{6})", answer.text)[1]
    text = (demo_folder / FILE_NAME).read_text()
    assert f"{number}: GET /" in text
    assert "the board fell over" in text
    assert stat.S_IMODE((demo_folder / FILE_NAME).stat().st_mode) == 0o600


def test_why_an_entry_cant_be_read_is_in_the_log(demo_folder):
    change(demo_folder, "UPDATE entries SET payload = '{\"wrong\": 1}' WHERE id = 3")
    assert open_client(demo_folder).get("/jobs/1/record").status_code == 200
    text = (demo_folder / FILE_NAME).read_text()
    assert "job 1, entry 3" in text
    assert "can't be read" in text


def test_it_is_turned_over_by_size_and_one_shop_writes_to_its_own(tmp_path, monkeypatch):
    monkeypatch.setattr(logbook, "MOST_BYTES", 200)
    other = tmp_path / "other"
    for folder in (tmp_path / "one", other):
        folder.mkdir()
        open_log(folder)
    for number in range(20):
        logging.getLogger("cold_arc.trial").warning("line %s of a long story", number)
    assert len(list(other.glob(f"{FILE_NAME}*"))) == logbook.KEPT + 1
    assert not (tmp_path / "one" / FILE_NAME).exists()


@pytest.fixture(autouse=True)
def closed():
    """Nothing goes on writing to a folder that is gone."""
    yield
    for handler in list(logging.getLogger(logbook.LOGGER).handlers):
        if isinstance(handler, logging.FileHandler):
            logging.getLogger(logbook.LOGGER).removeHandler(handler)
            handler.close()
