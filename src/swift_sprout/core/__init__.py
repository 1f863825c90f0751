"""What a module is and what must hold: no printing, no arguments, no subprocess, no network."""
