"""Jobs as files on the pages: written, looked at, taken in once, refused beside the field."""

import io
import re

import pytest

from cold_arc.store import chain, jobs
from cold_arc.store.database import open_database


def sent(shop, data, status=200):
    answer = shop.http.post("/shop/take-in", data={"file": (io.BytesIO(data), "job.zip")})
    assert answer.status_code == status
    return re.sub(r"\s+", " ", answer.text)


def taken(shop, page):
    digest = re.search(r'name="sum" value="([0-9a-f]{64})"', page)[1]
    return shop.post("/shop/take-in", do="take", sum=digest)


@pytest.fixture
def written(demo):
    answer = demo.http.get("/jobs/1/job.zip")
    assert answer.mimetype == "application/zip"
    assert "filename=TL-318.zip" in answer.headers["Content-Disposition"]
    return answer.data


def test_a_job_goes_from_one_shop_to_another(written, shop):
    page = sent(shop, written)
    assert "TL-318" in page
    assert "new here" in page
    with open_database(shop.folder)() as session:
        assert jobs.load(session, 1) is None  # looked at, and no more
    assert "1 of 1 taken in" in taken(shop, page)
    with open_database(shop.folder)() as session:
        assert jobs.load(session, 1).booking.reference == "TL-318"
        assert chain.faults(session, 1) == []
    again = sent(shop, written)
    assert "here already, the same" in again
    assert "0 of 1 taken in" in taken(shop, again)
    assert shop.http.get("/jobs/1/low/verify").status_code == 200


def test_what_is_no_job_file_is_refused_and_not_kept(written, shop):
    for data, words in (
        (b"", "Choose a job file first."),
        (b"no zip", "is no job file, or is damaged"),
        (written[:5000], "is no job file, or is damaged"),
    ):
        assert words in sent(shop, data, 422)
    assert not list((shop.folder / "incoming").glob("*.zip"))


@pytest.mark.parametrize("digest", ["", "../../etc/passwd", "0" * 64])
def test_only_what_was_looked_at_is_taken_in(shop, digest):
    page = shop.post("/shop/take-in", 422, do="take", sum=digest)
    assert "Choose the file again." in page
