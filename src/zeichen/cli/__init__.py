"""The command line: batch work and scripts on the same core as the app."""

from zeichen.cli.app import main

__all__ = ["main"]
