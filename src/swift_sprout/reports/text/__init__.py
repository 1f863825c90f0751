"""Results as text for people, one file per subject."""
