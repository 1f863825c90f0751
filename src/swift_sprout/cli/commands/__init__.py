"""One file per command: EXAMPLE, arguments(parser), run(options)."""
