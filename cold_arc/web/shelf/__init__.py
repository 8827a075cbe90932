"""The shop's light sources."""
