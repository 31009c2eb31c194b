"""The command line in this process."""

import sys

import pytest

from zeichen.cli import main


@pytest.fixture
def run(capsys, monkeypatch):
    """Run a command in this process; returns exit code, standard output, standard error."""

    def call(*words: object) -> tuple[int, str, str]:
        monkeypatch.setattr(sys, "argv", ["zeichen", *map(str, words)])
        try:
            main()
            code = 0
        except SystemExit as ended:
            code = int(ended.code or 0)
        captured = capsys.readouterr()
        return code, captured.out, captured.err

    return call
