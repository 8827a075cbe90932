"""Cookies: what a browser keeps of a person's preferences; secure where the page came by https."""

from __future__ import annotations

from flask import Flask, request
from flask.sessions import SecureCookieSessionInterface
from werkzeug.wrappers import Response

A_YEAR = 60 * 60 * 24 * 365


class SecureWhereItCan(SecureCookieSessionInterface):
    """A session's cookie that is sent by https alone where it was made there."""

    def get_cookie_secure(self, app: Flask) -> bool:
        """Whether this request came by https."""
        return request.is_secure


def keep(answer: Response, name: str, value: str) -> None:
    """A preference kept by the browser for a year."""
    answer.set_cookie(name, value, max_age=A_YEAR, samesite="Lax", secure=request.is_secure)
