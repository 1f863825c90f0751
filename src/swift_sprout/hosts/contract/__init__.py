"""What a kit is to the rest of the program: its data, its hosts, what is handed to and fro."""
