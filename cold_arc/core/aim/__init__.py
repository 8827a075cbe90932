"""Aim: the rules, what they say of a reading, what to tape on a wall, what the adjusters do."""
