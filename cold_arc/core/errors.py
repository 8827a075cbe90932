"""What every error of ours is: its text is a sentence for the person who asked."""

from __future__ import annotations


class ColdArcError(Exception):
    """Something asked for can't be done, and why, in words."""
