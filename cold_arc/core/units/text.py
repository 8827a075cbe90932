"""Typed text made plain: small letters, one kind of each mark, single spaces, so that the grammar
can be short.
"""

from __future__ import annotations

import re
import unicodedata

LONGEST = 80
_MARKS = {
    **dict.fromkeys("\u2212\u2013\u2012\u2010\u2011\ufe63\uff0d", "-"),
    **dict.fromkeys("\u2032\u2019\u2018\u00b4\u0060\u02b9\u02bc\u201b\uff07", "'"),
    **dict.fromkeys("\u2033\u201c\u201d\u201e\u02ba\u201f\uff02", '"'),
    **dict.fromkeys("\u00ba\u02da\u2070\u1d52\u25e6", "°"),
    **dict.fromkeys("\u00d7\u2715\u2716\u2a2f\u22c5", "x"),
    "\u2103": "°c",
    "\u2109": "°f",
    "\u066b": ".",
    "\u066c": ",",
    "\u00b7": "·",
    "\u2022": "·",
}
_WIDE = ("<wide>", "<narrow>", "<square>")
_FEET_INCHES_JOINED = re.compile(
    r"(?<=\d['’])-(?=\d)|(?<=ft)-(?=\d)|(?<=feet)-(?=\d)|(?<=foot)-(?=\d)"
)


def tidy(text: str) -> str:
    """*text* as the grammar expects it.

    >>> tidy("２½ In."), tidy("5′-3″")
    ('2 1/2 in', '5\\' 3"')
    """
    plain: list[str] = []
    for sign in text:
        plain.append(_plain(sign, plain[-1][-1:] if plain else ""))
    tidy = re.sub(r"\s+", " ", "".join(plain)).strip().lower()
    tidy = _FEET_INCHES_JOINED.sub(" ", tidy.replace("''", '"'))
    return re.sub(r"(?<=[a-z])\.|(?<=\d)\.$", "", tidy).strip()


def _plain(sign: str, before: str) -> str:
    """One character made plain; *before* is what stands before it."""
    if sign in _MARKS:
        return _MARKS[sign]
    category, made_of = unicodedata.category(sign), unicodedata.decomposition(sign)
    if category == "Nd":
        return str(unicodedata.decimal(sign))
    if category == "Zs" or sign.isspace():
        return " "
    if category == "Cf":
        return ""
    if made_of.startswith("<fraction>") and unicodedata.normalize("NFKC", sign).count(SLASH) == 1:
        fraction = unicodedata.normalize("NFKC", sign).replace(SLASH, "/")
        return f" {fraction}" if before.isdigit() else fraction
    return _wide(sign, made_of)


def _wide(sign: str, made_of: str) -> str:
    """A wide or otherwise dressed character as the plain one it stands for; any other as it is."""
    if made_of.startswith(_WIDE):
        return unicodedata.normalize("NFKC", sign)
    return "/" if sign == SLASH else sign


SLASH = "\u2044"
