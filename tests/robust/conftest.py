"""The demo, served in this process, with its forms guarded as in use; and a way to find every form
and parameter.
"""

from __future__ import annotations

import html
import re
import sqlite3
from contextlib import closing
from urllib.parse import parse_qsl, urlsplit

import pytest

from cold_arc.web.app import attach, build_app


@pytest.fixture
def demo(demo_folder):
    """A client on the demo that turns every fault of the program into its error page."""
    return open_client(demo_folder)


def open_client(folder):
    app = build_app()  # its own: some of these run beside another
    app.config.update(WTF_CSRF_ENABLED=False, PROPAGATE_EXCEPTIONS=False)
    attach(app, folder)
    client = app.test_client()
    client.folder = folder
    return client


def change(folder, statement, *values):
    """Writes to the database behind the program's back."""
    with closing(sqlite3.connect(folder / "cold-arc.sqlite")) as database:
        database.execute(statement, values)
        database.commit()


def settle(folder):
    """Everything written stands in the file itself, nothing beside it."""
    ask(folder, "PRAGMA wal_checkpoint(TRUNCATE)")


def ask(folder, statement, *values):
    with closing(sqlite3.connect(folder / "cold-arc.sqlite")) as database:
        return database.execute(statement, values).fetchall()


KIND = re.compile(r"\d+")


def kind(address):
    """An address without its numbers and values: one of each kind is enough."""
    parts = urlsplit(address)
    return KIND.sub("#", parts.path), tuple(
        sorted(name for name, _ in parse_qsl(parts.query, keep_blank_values=True))
    )


def forms(page):
    """Every form of a page: its address ("" for the page's own) and the values of its fields by
    name, without taps that only build on it.
    """
    for head, body in re.findall(r"<form([^>]*)>(.*?)</form>", page, re.S):
        if 'method="post"' not in head:
            continue
        address = re.search(r'action="([^"]*)"', head)
        fields = {}
        for tag in re.findall(r"<(?:input|button|textarea|select)[^>]*>", body):
            name, value = re.search(r'name="([^"]*)"', tag), re.search(r'value="([^"]*)"', tag)
            if (
                name
                and name[1] != "build"
                and not ('type="radio"' in tag and "checked" not in tag and name[1] in fields)
            ):
                fields[name[1]] = html.unescape(value[1]) if value else ""
        for name, options in re.findall(
            r'<select[^>]*name="([^"]*)"[^>]*>(.*?)</select>', body, re.S
        ):
            chosen = re.search(
                r'<option selected[^>]*value="([^"]*)"|<option[^>]*value="([^"]*)"', options
            )
            fields[name] = html.unescape((chosen[1] or chosen[2] or "") if chosen else "")
        yield (html.unescape(address[1]) if address else ""), fields


def links(page):
    """Every address of the shop's own that a page leads to."""
    return {html.unescape(found) for found in re.findall(r'(?:href|hx-get|src)="(/[^"#]*)"', page)}
