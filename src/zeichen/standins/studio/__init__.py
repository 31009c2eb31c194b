"""The stand-in picture generator: draws garden motifs procedurally, from a subject, a look and a seed."""

from zeichen.standins.studio.studio import SUBJECTS, Studio

__all__ = ["SUBJECTS", "Studio"]
