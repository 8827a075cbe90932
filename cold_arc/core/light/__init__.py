"""Light: photometry, colour, heat, readings on the wall."""
