"""A picture generator that needs no network: draws subjects of the allotment, with a generator's faults."""

from zeichen.standins.studio.catalogue import SUBJECTS
from zeichen.standins.studio.faults import CHANCES, Fault
from zeichen.standins.studio.studio import Drawn, Faults, Studio, known_subject

__all__ = ["CHANCES", "SUBJECTS", "Drawn", "Fault", "Faults", "Studio", "known_subject"]
