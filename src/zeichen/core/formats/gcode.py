"""G-code by RS-274/NGC: words, millimetres, absolute coordinates.

Source: T. R. Kramer, F. M. Proctor and E. Messina, "The NIST RS274/NGC Interpreter, Version 3",
NISTIR 6556 (2000): G0, G1, G17, G21, G90, G94, M2, M3, M5, comments in parentheses, messages. The laser's
power is the S word, 0 to 1000 for 0 to 100 %.
"""

from zeichen.core.formats.svg import number
from zeichen.core.values import FloatArray

FULL_POWER_S = 1000


class GcodeWriter:
    """Collects blocks; writes each modal word only when it changes."""

    def __init__(self, *, title: str) -> None:
        self._blocks = [f"({_plain(title)})", "G21 G90 G17 G94", "M3 S0"]
        self._feed_mm_min = ""
        self._power = "0"
        self._motion = ""

    def comment(self, text: str) -> None:
        """Add a comment block."""
        self._blocks.append(f"({_plain(text)})")

    def announce(self, operation: str) -> None:
        """Say which operation begins, by a message comment, which a controller shows."""
        self._blocks.append(f"(MSG, {_plain(operation)})")

    def travel(self, x_mm: float, y_mm: float) -> None:
        """Move fast with the beam off."""
        self._block("G0", x_mm, y_mm, power="0")

    def burn(self, x_mm: float, y_mm: float, *, feed_mm_min: float, power_percent: float) -> None:
        """Move in a straight line at a feed with the beam at a power (0 for a run-out)."""
        power = number(FULL_POWER_S * power_percent / 100, 1)
        self._block("G1", x_mm, y_mm, power=power, feed=number(feed_mm_min, 1))

    def polyline(self, points_mm: FloatArray, *, feed_mm_min: float, power_percent: float) -> None:
        """Travel to the first point and burn along the rest."""
        self.travel(float(points_mm[0, 0]), float(points_mm[0, 1]))
        for x_mm, y_mm in points_mm[1:].tolist():
            self.burn(x_mm, y_mm, feed_mm_min=feed_mm_min, power_percent=power_percent)

    def text(self) -> str:
        """Return the whole program, beam off at its end."""
        return "\n".join([*self._blocks, "M5", "S0", "G0 X0 Y0", "M2"]) + "\n"

    def _block(self, motion: str, x_mm: float, y_mm: float, *, power: str, feed: str = "") -> None:
        words = []
        if motion != self._motion:
            words.append(motion)
            self._motion = motion
        words.append(f"X{number(x_mm, 3)} Y{number(y_mm, 3)}")
        if power != self._power:
            words.append(f"S{power}")
            self._power = power
        if feed and feed != self._feed_mm_min:
            words.append(f"F{feed}")
            self._feed_mm_min = feed
        self._blocks.append(" ".join(words))


def _plain(text: str) -> str:
    return "".join(c if c.isascii() and c.isprintable() and c not in "()" else " " for c in text)
