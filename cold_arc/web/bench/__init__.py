"""The bench, and how beams are computed in turn."""
