"""Zeichen: from an idea to files a machine can run."""

__version__ = "0.1.0"
