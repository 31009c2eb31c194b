"""The shipped scenario: Pippin Row Allotments get ready for their open day. All of it is invented."""

from zeichen.demo.scenario import seed_if_new

__all__ = ["seed_if_new"]
