"""Match: candidates, ways to go, wiring."""
