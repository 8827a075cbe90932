"""The meter of the bay: where a real one sends its displays, what the page asks, the simulated
one.
"""
