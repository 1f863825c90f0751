"""What an accessibility checker finds on the pages of generated modules."""
