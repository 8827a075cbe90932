"""A job's pages: the frame of every stage, the record, the stages."""
