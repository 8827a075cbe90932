"""The car: its lamps, their bases, how they are told apart, what state they are in."""
