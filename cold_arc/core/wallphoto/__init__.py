"""A photograph of a beam on the wall, measured: cut-off, elbow, hot spot, sharpness, each with its
uncertainty.
"""
