"""Backwards: from the light on a wall to this lamp's housing, and to how a bulb sits in it."""
