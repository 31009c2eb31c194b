"""Routes, a module for each thing that is spoken about."""
