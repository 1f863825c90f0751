"""The Django kit: ``kit.toml`` and ``rules.toml`` are data, ``reading/`` reads files, ``probe/`` asks the host."""
