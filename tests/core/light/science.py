"""The colour-science package that colours are held against."""


def science():
    """The package, read in where a test asks it: every worker reads in every test."""
    import colour

    return colour
