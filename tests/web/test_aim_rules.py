"""A shop's own aim rules: copied, changed, aimed by, taken out; what was aimed by one keeps it."""

from cold_arc.core.job.entries.aim import Aimed
from cold_arc.store import jobs
from cold_arc.store.database import open_database

RULES = "/shop/aim-rules"
TOLD = {
    "name": "Lake district rule",
    "bands-0-upto": "0.9 m",
    "bands-0-keep_low": "-2",
    "bands-0-keep_high": "-0.8",
    "bands-0-set_low": "-1.4",
    "bands-0-set_high": "-1.2",
    "bands-1-upto": "",
    "bands-1-keep_low": "",
    "bands-1-keep_high": "-1",
    "bands-1-set_low": "-2",
    "bands-1-set_high": "-1.5",
    "left": "",
    "right": "",
}
AIM = {
    "lamp": "low-left",
    "phase": "left",
    "height": "0.66 m",
    "distance": "10 m",
    "stands": "13 cm",
}


def newest(demo):
    with open_database(demo.folder)() as session:
        return [
            it.payload for it in jobs.load(session, 1).entries if isinstance(it.payload, Aimed)
        ][-1]


def post(demo, where, status=200, **told):
    answer = demo.http.post(where, data=told, follow_redirects=True)
    assert answer.status_code == status
    return answer.text


def test_a_rule_is_copied_changed_and_aimed_by(demo):
    assert 'value="UN R48, low beam, our own"' in demo.http.get(f"{RULES}/copy/un-r48-low").text
    assert "stands first" in post(demo, f"{RULES}/copy/un-r48-low", **TOLD)
    assert demo.http.get("/jobs/1/low/aim").text.count("Lake district rule") >= 1
    page = post(demo, "/jobs/1/low/aim", rule="own-1", **AIM)
    assert "Left, as left: In." in page
    assert (newest(demo).rule, newest(demo).own.name) == ("un-r48-low", "Lake district rule")
    post(
        demo,
        f"{RULES}/1",
        **(TOLD | {"bands-0-set_high": "-1.3", "bands-0-keep_high": "-1.35"}),
        status=422,
    )
    post(demo, f"{RULES}/1", **(TOLD | {"bands-0-keep_high": "-1.25", "bands-0-set_high": "-1.3"}))
    assert newest(demo).own.bands[0].keep_high == -0.008
    assert "Left, as left: In." in demo.http.get("/jobs/1/low/aim").text  # by the rule as it was
    assert "taken out" in post(demo, f"{RULES}/1", do="drop")
    assert demo.http.get(f"{RULES}/1").status_code == 404
    assert "Left, as left: In." in demo.http.get("/jobs/1/low/aim").text


def test_what_is_wrong_with_a_rule_stands_beside_it(demo):
    where = f"{RULES}/copy/un-r48-low"
    page = post(demo, where, 422, **(TOLD | {"bands-1-set_low": "-0.5"}))
    assert "From low to high" in page
    assert 'value="Lake district rule"' in page
    assert "Both sides, or neither." in post(demo, where, 422, **(TOLD | {"left": "-2"}))
    assert "This is needed." in post(demo, where, 422, **(TOLD | {"name": " "}))
    assert "Heights go up" in post(demo, where, 422, **(TOLD | {"bands-1-upto": "0.8 m"}))
    assert demo.http.get(f"{RULES}/copy/none").status_code == 404
    assert post(demo, where, build="band", **TOLD).count("Band 3") == 1
    assert post(demo, where, build="fewer", **TOLD).count("Band 2") == 0
    assert "The shop's own</h2>" not in demo.http.get(RULES).text
