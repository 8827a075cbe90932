"""Pages beside Baseline and Verify: numbers and files, warm-up runs, shoot-outs."""
