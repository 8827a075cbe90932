"""The stages of the job, in the order of the work; Match has a package of its own."""
