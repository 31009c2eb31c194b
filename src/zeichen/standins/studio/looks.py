"""One list of parts, three looks: silhouette, bold line, flat colour."""

from collections.abc import Sequence

from zeichen.core.briefing.generator import Look
from zeichen.standins.studio.pen import Dot, Form, Mark, Part, outline_data

INK = "#1e2023"
PAPER = "#ffffff"
TONES = {
    "ochre": "#d9a441",
    "rust": "#a8502f",
    "cream": "#f3e3bd",
    "brown": "#6d4a33",
    "dark": "#2e2a2b",
    "leaf": "#54824a",
    "lime": "#a9bf6a",
    "beet": "#7d2748",
    "rose": "#d9838c",
    "sky": "#8fbcc9",
    "teal": "#2f6470",
}


def paint(parts: Sequence[Part], look: Look, *, weight: float, transform: str, ground: str = PAPER) -> str:
    """Return an SVG picture of 1000 x 1000 units; weight is the thickness of lines and gaps."""
    rows = [_painters[look](part, weight) for part in parts]
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1000 1000" width="1000" height="1000">'
        f'<rect width="1000" height="1000" fill="{ground}"/>'
        f'<g transform="{transform}" stroke-linejoin="round" stroke-linecap="round">{"".join(rows)}</g></svg>'
    )


def _silhouette(part: Part, weight: float) -> str:
    if isinstance(part, Form):
        # A paper-coloured rim keeps each part apart from what it lies on, as a papercut would.
        rim = (
            "" if part.joined else f' stroke="{PAPER}" stroke-width="{weight * 1.1:.1f}" paint-order="stroke"'
        )
        return f'<path d="{outline_data(part.area)}" fill="{INK}"{rim}/>'
    if isinstance(part, Mark):
        # A mark of negative width stands outside the forms, so it is ink here too.
        colour = INK if part.width < 0 else PAPER
        width = abs(part.width) * weight
        return (
            f'<path d="{outline_data(part.line)}" fill="none" stroke="{colour}" stroke-width="{width:.1f}"/>'
        )
    return f'<path d="{outline_data(part.area)}" fill="{PAPER}"/>'


def _line(part: Part, weight: float) -> str:
    if isinstance(part, Form):
        fill = INK if part.tone == "dark" and not part.joined else PAPER
        return (
            f'<path d="{outline_data(part.area)}" fill="{fill}" stroke="{INK}" stroke-width="{weight:.1f}"/>'
        )
    if isinstance(part, Mark):
        width = max(0.6, min(1.0, abs(part.width))) * weight * 0.9
        return f'<path d="{outline_data(part.line)}" fill="none" stroke="{INK}" stroke-width="{width:.1f}"/>'
    return f'<path d="{outline_data(part.area)}" fill="{INK}"/>'


def _flat(part: Part, weight: float) -> str:
    if isinstance(part, Form):
        return f'<path d="{outline_data(part.area)}" fill="{TONES[part.tone]}"/>'
    if isinstance(part, Mark):
        return (
            f'<path d="{outline_data(part.line)}" fill="none" stroke="{TONES[part.tone]}" '
            f'stroke-width="{abs(part.width) * weight:.1f}"/>'
        )
    return f'<path d="{outline_data(part.area)}" fill="{TONES["dark"]}"/>'


_painters = {Look.SILHOUETTE: _silhouette, Look.LINE: _line, Look.FLAT: _flat}
__all__ = ["INK", "PAPER", "TONES", "Dot", "paint"]
