"""Whole jobs by hand in the browser from booking in to the sheet: with every press counted, since
what is typed is typed once and nothing takes more presses than it must; and by keys alone on a
telephone's screen.
"""

import re
from contextlib import contextmanager
from dataclasses import replace

import pytest
from playwright.sync_api import expect

from tests.thorough import usual
from tests.web.conftest import BOOKING, Client, identification, plain
from tests.web.test_walks import KINDS
from tests.web.walking import NEEDED, SIDES, Walk

pytestmark = pytest.mark.browser
# How many presses a whole job may take at most, besides what is typed.
MOST_PRESSES = 59
COUNTED = (
    "rings renewed",
    "daytime light it never had",
    "a lamp opened for a ring",
    "fogs it never had",
    "fogs it never had, by UN rules",
    "wet lamps",
    "dual filament",
    "whole LED lamps",
)
# Only what is worked on is booked in: the fewest taps.
FRONTS = {"rings renewed": {"front": "signals-only"}}
CHOSEN = "input[name=work]:checked"
# What is typed last in a form: Enter after the figure sends it, as after a reading.
FIGURES = ("stands", "-stopped")
FORM = "#work form:has([name='{name}'])"


def settled(page):
    """Waits until nothing on a page is being exchanged."""
    page.wait_for_load_state()
    expect(page.locator(".htmx-request, .htmx-swapping, .htmx-settling")).to_have_count(0)


@contextmanager
def answered(page):
    """What is sent meanwhile, answered and shown."""
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        yield
    settled(page)


def same(shown, wanted):
    """Whether a field has a figure already, however it writes it: "62 cm" is "0.62 m"."""
    figures = [re.fullmatch(r"([\d.]+) ?(c?)[mV]?", text) for text in (shown, wanted)]
    if shown == wanted or not all(figures):
        return shown == wanted
    one, other = (float(figure[1]) * (0.01 if figure[2] else 1) for figure in figures)
    return one == pytest.approx(other)


class Hand:
    """A hand on a page: it taps and types, and counts its presses."""

    def __init__(self, page):
        self.page, self.presses, self.typed = page, 0, []

    def go(self, url):
        """To a page that is not the one in hand: a tap on a tab or the Track."""
        if self.page.url != url:
            self.page.goto(url)
            self.presses += 1

    def hit(self, locator):
        """One press."""
        locator.scroll_into_view_if_needed()
        locator.click()
        self.presses += 1

    def pick(self, one):
        """One press on a choice: on its words, where it has some."""
        label = self.page.locator(f"label[for='{one.get_attribute('id')}']")
        self.hit((label if label.count() else one).first)

    def press(self, locator):
        """A press that sends something; the page it leads to, all there."""
        with answered(self.page):
            self.hit(locator)

    def enter(self, field):
        """Enter after a figure, which is part of typing it."""
        with answered(self.page):
            field.press("Enter")

    def fill(self, name, value):
        """One field as wanted, however it is told."""
        if isinstance(value, list):
            for each in value:
                self.fill(name, each)
            return
        fields = self.page.locator(f"#work [name='{name}']")
        kind = fields.first.get_attribute("type") if fields.count() else None
        if kind in ("radio", "checkbox"):
            self.choose(name, value, kind)
        elif kind != "hidden" and fields.count():
            self.type(fields.first, value)

    def choose(self, name, value, kind):
        among = self.page.locator(f"#work input[name='{name}']")
        one = among if kind == "checkbox" and among.count() == 1 else None
        one = one or self.page.locator(f"#work input[name='{name}'][value='{value}']").first
        if not one.count() or one.is_checked():
            return
        self.unfold(one)
        self.pick(one)

    def type(self, field, value):
        """A field filled that has something else yet; where it is folded away, after a press."""
        if same(field.input_value(), value):
            return
        self.unfold(field)
        if not field.is_visible():
            return
        if field.evaluate("it => it.tagName") == "SELECT":
            field.select_option(value)
            self.presses += 2
            return
        field.fill(value)
        if value:
            self.typed.append(value)

    def unfold(self, inside):
        folded = inside.locator("xpath=ancestor::details[not(@open)]")
        if folded.count():
            self.hit(folded.first.locator("summary").first)


class Keys(Hand):
    """Keys alone: what the tabulator does not come to can't be pressed."""

    def hit(self, locator):
        assert locator.evaluate("it => it.tabIndex") >= 0, locator
        locator.focus()
        expect(locator).to_be_focused()
        chosen = locator.evaluate("it => ['radio', 'checkbox'].includes(it.type)")
        self.page.keyboard.press("Space" if chosen else "Enter")
        self.presses += 1

    def pick(self, one):
        self.hit(one)


class HandWalk(Walk):
    """A walk done by a hand in the browser."""

    def __init__(self, hand, server, lamps, reference):
        self.hand, self.page, self.url = hand, hand.page, server.url
        self.client, self.lamps = Client(server.folder), lamps
        self.listed, self.clocked = [], set()
        self.page.goto(f"{self.url}/jobs/new")
        hand.presses += 1
        self.tap(f"#made-{lamps.front}")
        for extra in lamps.extras:
            self.tap(f"#extra-{extra}")
        wanted = {f"{socket}-{side}" for socket in lamps.sockets for side in SIDES}
        if {box.get_attribute("value") for box in self.page.locator(CHOSEN).all()} - wanted:
            hand.hit(self.page.locator("#choose-none"))
        for lamp in self.page.locator("[data-toggles$=-left]").all():
            pair = lamp.get_attribute("data-pair")
            boxes = [f"{pair}-{side}" for side in SIDES]
            while any(
                self.page.locator(f"#work-{box}").is_checked() != (box in wanted) for box in boxes
            ):
                hand.hit(lamp)
        form = {**BOOKING, **lamps.booking, "reference": reference}
        for name in ("reference", "make", "market", "volts", "earth_positive", "year"):
            if name in form:
                hand.fill(name, form[name])
        hand.press(self.page.get_by_role("button", name="Book in", exact=True))
        self.page.wait_for_url(re.compile(r"/jobs/\d+"))
        self.path = re.search(r"/jobs/\d+", self.page.url)[0]

    def tap(self, selector):
        self.hand.press(self.page.locator(selector))

    def at(self, where):
        """At a page; what is at hand for all, or for what there is alone, is the same page."""
        scope, _, rest = where.partition("/")
        here = self.page.url.partition("?")[0].removeprefix(f"{self.url}{self.path}/")
        now = here.partition("/")
        one = self.lamps.sockets if len(self.lamps.sockets) == 1 else ()
        alike = len(self.units) == 1 and {scope, now[0]} <= {"all", *self.units, *one}
        if now[2] != rest or not (scope == now[0] or alike):
            self.hand.go(f"{self.url}{self.path}/{where}")

    def get(self, where):
        if "?" in where or where == "sheet":
            self.page.goto(f"{self.url}{self.path}/{where}")
            self.hand.presses += 1
        else:
            self.at(where)
        return plain(self.page.content())

    def post(self, where, /, **form):
        if where.partition("?")[0].endswith("/match") and "look=" in where:
            self.look(form["choice"])
        elif "?pass=" in where:
            self.show_pass(where)
        else:
            self.at(where)
        form = self.shortened(form)
        for name, value in form.items():
            if name not in ("do", "identify", "part", "choice", "renew"):
                self.hand.fill(name, value)
        if figure := next((name for name in form if name.endswith(FIGURES)), None):
            self.hand.enter(self.page.locator(f"#work [name='{figure}']"))
        else:
            self.hand.press(self.button(form))
        assert not self.page.locator("#work .field-error").count(), (where, form)
        return plain(self.page.content())

    def shortened(self, form):
        """A form as a hand fills it: cautions accepted all at once, where that is offered."""
        if len(form.get("accepted", ())) < 2 or not self.page.locator("#accepted_all").count():
            return form
        return {name: text for name, text in form.items() if name != "accepted"} | {
            "accepted_all": "y"
        }

    def look(self, choice):
        """A candidate looked at, where another is."""
        option = self.page.locator(f"#choice-{choice}")
        if not option.is_checked():
            with self.page.expect_response(lambda answer: "look=" in answer.url):
                self.hand.pick(option)
        settled(self.page)

    def show_pass(self, where):
        if not self.page.url.endswith(where):
            self.page.goto(f"{self.url}{self.path}/{where}")
            self.hand.presses += 1

    def button(self, form):
        """The button that sends a form."""
        page = self.page
        if "do" in form:
            return page.locator(f"#work button[name=do][value='{form['do']}']").first
        if "part" in form:
            return page.locator(f"form:has([name=part][value={form['part']}]) button").last
        if "identify" in form:
            named = f"form:has([name=identify][value='{form['identify']}'])"
            return page.locator(f"{named} button").first
        name = next(name for name in form if page.locator(f"#work [name='{name}']").count())
        own = page.locator(FORM.format(name=name))
        return own.locator("button.btn-primary, button.btn-outline-primary").last

    def finish(self, where, reason=""):
        if f"{self.path}/{where}/" not in self.page.url:  # a stage's inner pages finish it too
            self.at(where)
        shown = self.page.locator(".action-missing")
        if shown.inner_text() == "Finished.":  # with another lamp's, at once
            return
        assert (NEEDED in shown.inner_text()) is not bool(reason), (where, shown.inner_text())
        if reason:
            self.hand.type(self.page.locator("#skip-reason"), reason)
        self.hand.press(self.page.locator(".action-bar [data-main]"))

    def come_in(self):
        """Book in, and Inspect both sides at once where they are alike."""
        seen = dict(self.lamps.seen)
        if any(f"{unit}-{side}" in seen for unit in self.units for side in SIDES):
            super().come_in()
            return
        for socket, (optic, base, present) in self.lamps.sockets.items():
            holds = self.lamps.holds.get(socket, "bulb")
            self.post("all/book-in", **identification(base, optic, present, socket, holds))
        self.finish("all/book-in")
        for unit in self.units:
            if self.was_there(unit):
                self.post(f"{unit}/inspect", **({"haze": "0"} | seen.get(unit, {})))
            self.finish(f"{unit}/inspect")

    def end_shoot_out(self, where):
        self.at(where)
        self.hand.press(self.page.get_by_role("button", name="End the shoot-out"))

    def plan(self):
        """The way in of each unit, by its name."""
        for unit, way in self.lamps.ways.items():
            self.at(f"{unit}/plan")
            self.hand.press(self.page.locator("button[value^='load:']", has_text=way).first)
            self.finish(f"{unit}/plan")

    def prove(self, when):
        """The whole board at once where it is offered, and what functions do together."""
        where = f"all/prove?pass={when}"
        self.show_pass(where)
        rest = self.page.locator("button[value='row:*']")
        while (row := rest if rest.count() else self.page.locator("button[value^='row:']")).count():
            self.hand.press(row.first)
            self.show_pass(where)
        if when == "closed":
            self.hand.press(self.page.locator("button[value='right:*']"))

    def fit(self):
        """Step after step as the page asks, those that go together at once."""
        self.at("all/fit")
        now = self.page.locator(".step-now h2")
        while now.count():
            self.listed.append(now.inner_text())
            together = self.page.locator(".step-now button[value^='group:']")
            if self.listed[-1].startswith("Prove it open"):
                self.clock()
                self.prove("open")
                self.at("all/fit")
            else:
                self.hand.press(together if together.count() else self.page.locator("[data-tick]"))
        self.finish("all/fit")

    def read(self, stage, times=1.0):
        """Place after place, as the field steps on by itself; Enter after each figure."""
        for beam, places in self.lamps.read.items():
            self.at(f"{beam}/{stage}")
            for name, value in (("distance", "10 m"), ("volts", self.lamps.volts)):
                self.hand.fill(name, value)
            self.hand.fill("height", self.lamps.height)
            for side in SIDES:
                for place, lux in places.items():
                    self.figure(f"{place}-{beam}-{side}", f"{lux * times:.1f} lx x1")
            self.finish(f"{beam}/{stage}")

    def figure(self, name, text):
        field = self.page.locator(f"#{name}")
        if not field.count():
            self.hand.hit(self.page.locator(f'.strip-cell[href$="at={name}"]'))
            expect(field).to_be_visible()
        field.fill(text)
        self.hand.enter(field)


DESK, PHONE = (1280, 800), (390, 844)


@pytest.mark.thorough
@pytest.mark.parametrize("kind", KINDS)
def test_a_whole_job_of_every_kind_by_keys_on_a_telephone(serve, open_page, kind):
    by_hand(serve(), open_page, kind, PHONE, Keys)


@pytest.mark.parametrize("kind", usual(COUNTED, []))
def test_a_whole_job_by_hand_takes_no_more_presses_than_it_must(serve, open_page, kind, capsys):
    presses = by_hand(serve(), open_page, kind, DESK, Hand)
    with capsys.disabled():
        print(f"\n  {kind}: {presses} presses", end="")
    assert presses <= MOST_PRESSES


def by_hand(server, open_page, kind, screen, hands):
    """A whole job of a kind from booking in to the sheet; how many presses it took."""
    lamps = replace(KINDS[kind], **FRONTS.get(kind, {}))
    hand = hands(open_page(server, *screen))
    walk = HandWalk(hand, server, lamps, "P-1")
    assert "P-1" in walk.whole()
    assert hand.page.evaluate("document.documentElement.scrollWidth") <= screen[0]
    return hand.presses
