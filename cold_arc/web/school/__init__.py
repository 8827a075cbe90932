"""Pages of the school: a round of ten, its questions and what came of them, who can do what."""
