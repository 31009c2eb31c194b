"""One open format a module: bytes to core values and back."""
