"""Forecasts of picture files, and as plain data that goes to the screen or into a report."""

from dataclasses import dataclass
from typing import Any

from zeichen.core.formats.picture import read_picture
from zeichen.core.proofing import Yardstick
from zeichen.core.proofing.forecast import Forecast, ForecastReadings, forecast
from zeichen.core.raster.clean import steps_to_data
from zeichen.core.raster.picture import Picture
from zeichen.core.tracing.doubts import has_lettering


@dataclass(frozen=True, slots=True)
class ReasonData:
    """Why a picture will not trace well; cure is a clean-up step, if one cures it."""

    kind: str
    words: str
    measured: float
    limit: float
    unit: str
    cure: dict[str, Any] | None


@dataclass(frozen=True, slots=True)
class ForecastData:
    """How well a sketch will trace at the yardstick's size: traces-well, needs-clean-up, too-fine or wrong-kind."""

    verdict: str
    reasons: tuple[ReasonData, ...]
    readings: ForecastReadings
    suggested: tuple[dict[str, Any], ...]


def forecast_file(data: bytes, yardstick: Yardstick) -> Forecast:
    """Return how well a picture file will trace."""
    return forecast_picture(read_picture(data), yardstick)


def forecast_picture(picture: Picture, yardstick: Yardstick) -> Forecast:
    """Return how well a picture will trace, small letters looked for too."""
    return forecast(picture, yardstick, lettering=has_lettering(picture))


def forecast_data(found: Forecast) -> ForecastData:
    """Return a forecast as plain data."""
    reasons = (
        ReasonData(
            reason.kind,
            reason.words,
            reason.measured,
            reason.limit,
            reason.unit,
            None if reason.cure is None else steps_to_data([reason.cure])[0],
        )
        for reason in found.reasons
    )
    return ForecastData(
        found.verdict.value, tuple(reasons), found.readings, tuple(steps_to_data(found.suggested))
    )
