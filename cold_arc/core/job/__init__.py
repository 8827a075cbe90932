"""The job: its record, the stages, what a record may hold."""
