"""Bases: told apart by what can be seen, measured off an old bulb."""
