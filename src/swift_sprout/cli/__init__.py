"""Arguments and prompts; everything else is called from here and lives elsewhere."""
