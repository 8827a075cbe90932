"""The shop's own pages, its data session, what templates may call."""
