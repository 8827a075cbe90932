"""Every page, night and day, by an accessibility checker (axe-core): WCAG 2.2 A and AA."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

from cold_arc.core.job.stages import Stage
from tests.thorough import thorough

pytestmark = pytest.mark.browser

AXE = (Path(__file__).parent / "axe" / "axe.min.js").read_text(encoding="utf-8")
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
STAGES = tuple(stage.value for stage in Stage)
PAGES = (
    *(
        "/",
        "/?which=closed",
        "/jobs/new",
        "/bases",
        "/light-sources",
        "/light-sources/new",
        "/shop",
    ),
    *("/bench?source=led&axial=-2&points=1", "/bench/file", "/bench/compare"),
    *(f"/jobs/1/low/{stage}" for stage in STAGES),
    *(
        "/jobs/2/low/match?look=5&weights=1",
        "/jobs/2/low/match/beside?id=5&id=8",
        "/jobs/3/low/match/options",
    ),
    *(
        "/jobs/2/low/match/wiring?look=6",
        "/jobs/2/low/identify?looks=twist",
        "/jobs/4/headlamp-1/measure",
    ),
    *(
        "/day",
        "/jobs/3/all/plan/whole",
        "/jobs/5/headlamp/plan",
        "/jobs/5/fog/fit",
        "/jobs/1/low/prove?pass=closed",
    ),
    *("/jobs/1/low/aim/wall", "/jobs/1/low/aim/photo", "/jobs/1/low/aim/live"),
    *("/shop/aim-rules", "/shop/aim-rules/copy/un-r48-low"),
    *("/jobs/5/fog/plan", "/jobs/5/all/book-in?edit=1", "/jobs/3/low/baseline?at=edge-low-left"),
    *("/jobs/1/low/numbers", "/jobs/1/low-left/warm-up", "/jobs/1/low-left/shoot-out", "/measured"),
    *("/jobs/1/record", "/jobs/1/sheet", "/nowhere"),
    *("/school", "/school/people", "/school/cards"),
)


CONTRAST = {"type": "rule", "values": ["color-contrast"]}  # all that can differ by day


# One of each kind of page, each time; all in the thorough run, in parts that workers share.
USUAL = (
    *("/bench?source=led&axial=-2&points=1", "/jobs/5/all/book-in?edit=1", "/jobs/5/fog/fit"),
    *("/jobs/3/low/baseline?at=edge-low-left", "/jobs/2/low/match?look=5&weights=1"),
)
OTHERS = [page for page in PAGES if page not in USUAL]
# By day those with the most colours.
COLOURED = ("/jobs/2/low/match?look=5&weights=1", "/jobs/1/low/aim")
OTHERS_BY_DAY = [page for page in PAGES if page not in COLOURED]


def _parts(theme, rules, tried, others):
    """The pages tried each time, and all others, of some at a time."""
    rest = (others[at : at + 8] for at in range(0, len(others), 8))
    return [(theme, rules, tried), *(thorough(theme, rules, pages) for pages in rest)]


PARTS = [*_parts("night", RULES, USUAL, OTHERS), *_parts("day", CONTRAST, COLOURED, OTHERS_BY_DAY)]


@pytest.mark.parametrize(("theme", "rules", "pages"), PARTS)
def test_every_page_passes_the_accessibility_checker(demo, open_page, theme, rules, pages):
    page = open_page(demo, watched=False)
    page.context.add_cookies([{"name": "theme", "value": theme, "url": demo.url}])
    faults = []
    for path in pages:
        page.goto(demo.url + path)
        expect(page.locator(".predicting")).to_have_count(0)
        page.evaluate(AXE)
        found = page.evaluate(
            '(rules) => axe.run(document, {runOnly: rules, resultTypes: ["violations"]})', rules
        )
        faults += [
            (
                f"{path}: {fault['id']}: {node['target']} "
                f"{node['failureSummary'].splitlines()[1].strip()}"
            )
            for fault in found["violations"]
            for node in fault["nodes"][:3]
        ]
    assert not faults, "\n".join(faults)
