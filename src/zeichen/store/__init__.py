"""Saving and loading: SQLite through SQLAlchemy, and content-addressed files."""
