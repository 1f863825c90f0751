"""The Django kit: ``kit.toml`` and ``rules.toml`` hold what is data, ``reading/`` reads files, ``probe/`` asks the host."""
