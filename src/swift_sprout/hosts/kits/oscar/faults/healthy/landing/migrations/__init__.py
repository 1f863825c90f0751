"""The host's own migrations of this app, and behind them those of the landing places."""

from oscar.apps.partner import migrations

__path__ = [*__path__, *migrations.__path__]
