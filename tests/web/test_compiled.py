"""Compiled templates are kept beside the templates, and missed by nobody where they can't be."""

import jinja2
import pytest

from cold_arc.web.app import build_app
from cold_arc.web.shell import compiled


@pytest.fixture
def folder(tmp_path, monkeypatch):
    monkeypatch.setattr(compiled, "FOLDER", tmp_path / "kept")
    return tmp_path / "kept"


def page(app):
    return app.jinja_env.get_template("home.html")


def test_what_was_compiled_once_is_not_compiled_again(folder, monkeypatch):
    page(build_app())
    assert list(folder.iterdir())
    monkeypatch.setattr(jinja2.Environment, "_compile", None)
    page(build_app())


def test_a_changed_or_a_spoilt_one_is_compiled_anew(folder):
    page(build_app())
    for file in folder.iterdir():
        file.write_bytes(file.read_bytes()[:-20])
    assert page(build_app()).root_render_func


def test_where_nothing_can_be_kept_pages_are_made_all_the_same(folder):
    folder.write_text("a file stands where the folder would")
    assert page(build_app()).root_render_func
    assert folder.is_file()
