"""Forecasts of picture files, and as plain data that goes to the screen or into a report."""

from dataclasses import dataclass
from typing import Any

from zeichen.core.forecasting.forecast import Forecast, ForecastReadings, Verdict, forecast
from zeichen.core.formats.picture import read_picture
from zeichen.core.proofing import Yardstick
from zeichen.core.raster.clean import steps_to_data


@dataclass(frozen=True, slots=True)
class ReasonData:
    """Why a picture will not trace well; cure: a step that cures it, if one does. note: it traces well all the same."""

    kind: str
    words: str
    measured: float
    limit: float
    unit: str
    cure: dict[str, Any] | None
    note: bool


@dataclass(frozen=True, slots=True)
class ForecastData:
    """How well a sketch will trace at the yardstick's size: traces-well, needs-clean-up, too-fine or wrong-kind.

    method, why: what it wants to be traced by. note: a reason that does not stand in the way.
    """

    verdict: str
    method: str
    why: str
    reasons: tuple[ReasonData, ...]
    readings: ForecastReadings
    suggested: tuple[dict[str, Any], ...]


def forecast_file(data: bytes, yardstick: Yardstick) -> Forecast:
    """Return how well a picture file will trace."""
    return forecast(read_picture(data), yardstick)


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
            reason.verdict is Verdict.TRACES_WELL,
        )
        for reason in found.reasons
    )
    return ForecastData(
        found.verdict.value,
        found.method.value,
        found.why,
        tuple(reasons),
        found.readings,
        tuple(steps_to_data(found.suggested)),
    )
