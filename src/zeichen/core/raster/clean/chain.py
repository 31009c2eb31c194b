"""A chain of clean-up steps: applied in order, and as plain data."""

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from zeichen.core.errors import InvalidInputError
from zeichen.core.raster.clean.steps import STEP_KINDS, CleanStep, Despeckle, Enlarge, settings_of
from zeichen.core.raster.picture import Picture

# A chain of more steps is a mistake or an attack (our own rule).
_MOST_STEPS = 200


def cleaned(
    picture: Picture, steps: Sequence[CleanStep], *, original: Picture | None = None, number: int = 1
) -> Picture:
    """Return the picture after all steps that are switched on, in their order.

    original: what the chain began with, and number: the place of the first step in it, if others came before.

    Raises
    ------
    InvalidInputError
        If a step cannot be done with this picture; the message names it.
    """
    out = picture
    began = original or picture
    for place, step in enumerate(steps, number):
        if not step.on:
            continue
        try:
            out = step.apply(out, began)
        except InvalidInputError as error:
            raise InvalidInputError(f"Step {place} ({step.kind.replace('-', ' ')}): {error}") from error
    return out


def at_scale(steps: Sequence[CleanStep], factor: float) -> tuple[CleanStep, ...]:
    """Return the steps for a copy of the picture that many times as large: lengths in px change, shares do not."""
    scaled = []
    for step in steps:
        if isinstance(step, Enlarge) and factor < 1.0:
            continue
        scaled.append(
            replace(step, area_px2=max(1.0, step.area_px2 * factor**2))
            if isinstance(step, Despeckle)
            else step
        )
    return tuple(scaled)


def steps_from_data(data: object) -> tuple[CleanStep, ...]:
    """Return the steps in plain data: a list of {"kind": ..., "on": ..., settings}.

    Raises
    ------
    InvalidInputError
        If it is not such a list, a kind or a setting is unknown, or a value is out of its limits.

    Examples
    --------
    >>> steps_from_data([{"kind": "turn", "angle_deg": 90}])
    (Turn(on=True, angle_deg=90),)
    """
    if not isinstance(data, list) or len(data) > _MOST_STEPS:
        raise InvalidInputError(f"Clean-up steps must be a list of at most {_MOST_STEPS}.")
    return tuple(_step(number, each) for number, each in enumerate(data, 1))


def steps_to_data(steps: Sequence[CleanStep]) -> list[dict[str, Any]]:
    """Return steps as plain data that JSON can hold; steps_from_data reads it again."""
    return [{"kind": step.kind, "on": step.on, **settings_of(step)} for step in steps]


def _step(number: int, data: object) -> CleanStep:
    if not isinstance(data, dict) or not isinstance(data.get("kind"), str):
        raise InvalidInputError(f"Step {number} has no kind. The kinds are: {', '.join(STEP_KINDS)}.")
    kind = data["kind"]
    if kind not in STEP_KINDS:
        raise InvalidInputError(f"Step {number}: there is no {kind}. The kinds are: {', '.join(STEP_KINDS)}.")
    values = {str(key): value for key, value in data.items() if key != "kind"}
    if kind == "brush" and isinstance(values.get("path"), list):
        values["path"] = _places(number, values["path"])
    try:
        return STEP_KINDS[kind](**values)
    except TypeError as error:
        raise InvalidInputError(
            f"Step {number} ({kind}) has settings of the wrong name or kind: {sorted(values)}."
        ) from error


def _places(number: int, path: list[Any]) -> tuple[tuple[float, float], ...]:
    try:
        return tuple((float(x), float(y)) for x, y in path)
    except (TypeError, ValueError) as error:
        raise InvalidInputError(f"Step {number} (brush): a stroke is a list of pairs of numbers.") from error
