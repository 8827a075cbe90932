"""The printed target's files, measured in their own units: a PDF point is 1/72 in (ISO 32000-1,
from memory).
"""

import io
import re
from xml.etree import ElementTree

import pypdf
import pytest

from cold_arc.core.aim.rules import SlopeBand, Target
from cold_arc.core.car.lamps import Side
from cold_arc.core.references import PRACTICE
from cold_arc.core.wallphoto.wall_target import PAPERS, WallTarget
from cold_arc.formats.wall_target import to_pdf, to_svg

TARGET = WallTarget(
    Side.LEFT,
    Target(SlopeBand(-0.02, -0.005), SlopeBand(-0.015, -0.01), None, PRACTICE),
    10.0,
    "A-1 <left>",
    "65 cm",
)
POINTS_A_CM = 72 / 2.54
LINE = re.compile(r"^n ([-\d.]+) ([-\d.]+) m ([-\d.]+) ([-\d.]+) l S", re.M)


@pytest.mark.parametrize(("name", "size"), [("A4", (29.7, 21.0)), ("Letter", (27.94, 21.59))])
def test_every_sheet_is_its_size_and_its_bar_ten_centimetres(name, size):
    pages = pypdf.PdfReader(io.BytesIO(to_pdf(TARGET, PAPERS[name]))).pages
    assert len(pages) == 12
    for page in pages:
        box = page.mediabox
        assert (float(box.width), float(box.height)) == pytest.approx(
            [it * POINTS_A_CM for it in size], abs=0.02
        )
        lines = LINE.findall(page.get_contents().get_data().decode("latin-1"))
        lengths = [abs(float(x2) - float(x1)) for x1, _, x2, _ in lines]
        assert lengths[0] == pytest.approx(10 * POINTS_A_CM, abs=0.01)
        assert "without scaling" in page.extract_text()
    names = [page.extract_text().split("·")[0].strip()[-2:] for page in pages]
    assert {"A1", "C4"} <= set(names)


def test_the_svg_is_in_centimetres():
    drawn = ElementTree.fromstring(to_svg(TARGET))
    assert (drawn.get("width"), drawn.get("height")) == ("98cm", "53cm")
    assert drawn.get("viewBox").split()[2:] == ["98", "53"]
    lines = drawn.findall("{http://www.w3.org/2000/svg}line")
    bar = [
        float(it.get("x2")) - float(it.get("x1"))
        for it in lines
        if it.get("stroke-width") == "0.06"
    ]
    assert bar == pytest.approx([10.0])
    assert drawn.find("{http://www.w3.org/2000/svg}title").text == "A-1 <left>"
