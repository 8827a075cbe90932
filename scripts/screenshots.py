"""Takes the pictures in docs/screenshots from the demo: `make shots`. Names may be given to take
only those.
"""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from playwright.sync_api import sync_playwright

ROOT = Path(__file__).parent.parent
sys.path.insert(0, str(ROOT))

from tests.serving import CHROMIUM, CHROMIUM_FLAGS, serving  # noqa: E402

DESK = (1280, 800)
# A round of the school that begins with a beam to be read.
A_BEAM_FIRST = "0000000000000063"
VIEWS = {
    "home": ("/", DESK, "night"),
    "day": ("/day", DESK, "night"),
    "01-book-in": ("/jobs/5/all/book-in", DESK, "night"),
    "02-inspect": ("/jobs/2/low/inspect", DESK, "night"),
    "03-baseline": ("/jobs/3/low/baseline?at=below-low-left", DESK, "night"),
    "04-match": ("/jobs/2/low/match?look=5&lens=restored", DESK, "night"),
    "04-match-quote-day": ("/jobs/2/low/match/quote?go=1", DESK, "day"),
    "05-plan": ("/jobs/5/headlamp/plan", DESK, "night"),
    "car": ("/jobs/9/car", DESK, "night"),
    "06-fit": ("/jobs/5/fog/fit", DESK, "night"),
    "07-prove": ("/jobs/4/low/prove?pass=closed", DESK, "night"),
    "08-aim": ("/jobs/1/low/aim", DESK, "night"),
    "09-verify": ("/jobs/1/low/verify", DESK, "night"),
    "09-numbers": ("/jobs/1/low-left/numbers", DESK, "night"),
    "school": ("/school", DESK, "night"),
    "08-read-wall-day": ("/jobs/1/low/aim/photo", DESK, "day"),
    "10-hand-over": ("/jobs/1/low/hand-over", DESK, "night"),
    "bench": ("/bench?source=led&axial=-2&points=1", DESK, "night"),
    "sheet-day": ("/jobs/1/sheet", DESK, "day"),
}


def main(names: list[str], out: Path) -> None:
    out.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder), "demo") as server,
        sync_playwright() as p,
    ):
        browser = p.chromium.launch(executable_path=CHROMIUM, args=CHROMIUM_FLAGS)
        for name in names or VIEWS:
            path, (width, height), theme = VIEWS[name]
            context = browser.new_context(viewport={"width": width, "height": height})
            context.add_cookies([{"name": "theme", "value": theme, "url": server.url}])
            page = context.new_page()
            page.goto(server.url + path)
            if "bench" in path or "match?" in path or "beside" in path:
                page.locator("[data-wall]").first.wait_for(timeout=90_000)
            page.locator(".predicting").wait_for(state="detached", timeout=90_000)
            if path == "/school":
                page.evaluate(f"document.querySelector('[name=round]').value = '{A_BEAM_FIRST}'")
                page.get_by_role("button", name="Ten minutes").click()
                page.locator(".school-options").wait_for()
            if "photo" in path:
                page.locator(".photo-form").get_by_text("As left", exact=True).click()
                page.get_by_role("button", name="Simulated camera").click()
                page.get_by_role("link", name="Read how the bulb sits").click()
                page.get_by_role("button", name="Read how the bulb sits").click()
                page.get_by_role("button", name="Keep it").wait_for(timeout=180_000)
            page.wait_for_load_state("networkidle")
            page.screenshot(path=out / f"{name}.png")
            context.close()
        browser.close()


if __name__ == "__main__":
    main(sys.argv[1:], ROOT / "docs" / "screenshots")
