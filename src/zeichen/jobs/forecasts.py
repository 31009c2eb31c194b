"""Forecasts of picture files, and as plain data."""

from dataclasses import asdict
from typing import Any

from zeichen.core.formats.picture import read_picture
from zeichen.core.proofing import Yardstick
from zeichen.core.proofing.forecast import Forecast, forecast
from zeichen.core.raster.clean import steps_to_data
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.doubts import has_lettering


def forecast_file(data: bytes, yardstick: Yardstick) -> Forecast:
    """Return how well a picture file will trace."""
    return forecast_picture(read_picture(data), yardstick)


def forecast_picture(picture: Picture, yardstick: Yardstick) -> Forecast:
    """Return how well a picture will trace, small letters looked for too."""
    return forecast(picture, yardstick, lettering=has_lettering(picture))


def forecast_data(found: Forecast) -> dict[str, Any]:
    """Return a forecast as JSON can hold it."""
    return {
        "verdict": found.verdict.value,
        "reasons": [
            {
                "kind": reason.kind,
                "words": reason.words,
                "measured": reason.measured,
                "limit": reason.limit,
                "unit": reason.unit,
                "cure": None if reason.cure is None else steps_to_data([reason.cure])[0],
            }
            for reason in found.reasons
        ],
        "readings": asdict(found.readings),
        "suggested": steps_to_data(found.suggested),
    }
