"""Results as text, JSON and other forms."""
