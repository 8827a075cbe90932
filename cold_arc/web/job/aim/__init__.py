"""Aim beside its stage page: the wall and its target, photographs, the live camera."""
