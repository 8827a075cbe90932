"""The work at the car: the way in, fitting, clocking, proving."""
