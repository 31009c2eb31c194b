"""Letters as outlines, or as single strokes for engraving: shaped, set straight or along a curve, sized in mm."""

from zeichen.core.lettering.fonts import FONTS, Font, font_named
from zeichen.core.lettering.setting import Bend, LetterOrder, lettered

__all__ = ["FONTS", "Bend", "Font", "LetterOrder", "font_named", "lettered"]
