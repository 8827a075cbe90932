"""What pages are drawn with: one sheet of style, kept by browsers under an address that names its
content.
"""

from __future__ import annotations

import re

from cold_arc.web.shell import static_files
from tests.apps import app_on


def test_every_sheet_is_part_of_the_one(empty_folder):
    sheets = {f"css/{path.name}" for path in (static_files.FOLDER / "css").glob("*.css")}
    assert sheets == {name for name in static_files.SHEETS if name.startswith("css/")}


def test_the_one_sheet_is_kept_and_finds_its_fonts(empty_folder):
    client = app_on(empty_folder).test_client()
    address = re.search(r'rel="stylesheet" href="([^"]+)"', client.get("/").text)[1]
    assert address == f"{static_files.address()}/{static_files.ONE_SHEET}"
    sheet = client.get(address)
    assert sheet.cache_control.max_age == static_files.KEPT_FOR.total_seconds()
    named = set(re.findall(r'url\("(\.\.[^"]+)"\)', sheet.text))
    assert len(named) >= 3
    for relative in named:
        found = client.get(f"{static_files.address()}/css/{relative}")
        assert found.status_code == 200, relative
