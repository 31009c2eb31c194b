"""The shipped scenario: Pippin Row Allotments get ready for their open day. All of it is invented."""

from zeichen.demo.scenario import Begun, begin_if_new, seed_if_new, set_out

__all__ = ["Begun", "begin_if_new", "seed_if_new", "set_out"]
