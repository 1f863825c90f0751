"""What kits share whose hosts Python runs."""
