"""Speed and size as ratios to a floor that is measured in the same run: ``make bench``."""
