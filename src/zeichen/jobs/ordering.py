"""From a brief, a motif and a sketch to start from to the parameters of a drawing job, and to its orders."""

from dataclasses import asdict, dataclass, replace
from typing import Any

from sqlalchemy.orm import Session

from zeichen.core.briefing import (
    ALL_RULES,
    Detail,
    HouseStyle,
    Look,
    Manner,
    PictureFormat,
    Reach,
    SketchOrder,
    SubjectLine,
    Variation,
    compose_all,
    parse_subjects,
)
from zeichen.core.errors import InvalidInputError
from zeichen.store import briefs, collections, sketches
from zeichen.store.records import Brief, Motif, Sketch


@dataclass(frozen=True, slots=True)
class Wish:
    """What is asked for beyond the brief.

    look: another one than the brief's. parent_id: the sketch to start from, reach: how far from it; without
    reach the parent is only remembered. reference_id: the sketch whose hand to follow.
    """

    count: int
    seed: int
    look: Look | None = None
    parent_id: int | None = None
    reach: Reach | None = None
    reference_id: int | None = None


def house_style(brief: Brief | None) -> HouseStyle:
    """Return the house style of a stored brief; what it does not say is as usual."""
    if brief is None:
        return HouseStyle()
    style = brief.style
    return HouseStyle(
        Look(brief.look),
        style.get("line_mm"),
        Detail(style.get("detail", Detail.SOME)),
        style.get("colours"),
        tuple(style.get("palette", ())),
        PictureFormat(style.get("format", PictureFormat.SQUARE)),
    )


def wordings(brief: Brief, *, width_mm: float) -> list[tuple[SubjectLine, str]]:
    """Return each line of a brief with its wording."""
    lines = parse_subjects(brief.subjects).lines
    composed = compose_all(
        lines, style=house_style(brief), rule_keys=brief.rules, width_mm=width_mm, edits=brief.edits
    )
    return list(zip(lines, composed, strict=True))


def draw_params(session: Session, motif_id: int, wish: Wish) -> dict[str, Any]:
    """Return the parameters of a job that draws sketches of a motif.

    Raises
    ------
    InvalidInputError
        If a variation is asked of a picture that no generator drew.
    """
    motif = collections.motif(session, motif_id)
    width_mm = collections.yardstick_of_motif(session, motif_id).width_mm
    brief = briefs.latest_brief(session, motif.collection_id)
    parent = None if wish.parent_id is None else sketches.sketch(session, wish.parent_id)
    common = {"motif_id": motif_id, "count": wish.count, "parent_id": wish.parent_id, "seed": wish.seed}
    if wish.reach is not None:
        return {**common, **_variation_params(motif, parent, wish.reach)}
    style = house_style(brief)
    if wish.look is not None:
        style = replace(style, look=wish.look)
    line, wording = _line_of(motif, brief, style, width_mm)
    reference = wish.reference_id
    if reference is None and brief is not None:
        reference = brief.reference_id
    sha = None if reference is None else sketches.sketch(session, reference).picture_sha
    return {
        **common,
        "subject": motif.name,
        "look": style.look.value,
        "wording": wording,
        "pose": line.pose,
        "format": style.format.value,
        "manner": asdict(style.manner(width_mm=width_mm)),
        "reference_sha": sha,
        "reference_id": reference,
    }


def order_of(params: dict[str, Any], number: int) -> SketchOrder:
    """Return the order for one picture of a job."""
    steps = tuple(Variation(Reach(reach), seed) for reach, seed in params.get("variations", ()))
    own = params["seed"] + number
    if params.get("reach"):
        steps, own = (*steps, Variation(Reach(params["reach"]), own % 2**31)), params["parent_seed"]
    return SketchOrder(
        params["subject"],
        Look(params["look"]),
        own % 2**31,
        params.get("wording", ""),
        pose=params.get("pose", ""),
        format=PictureFormat(params.get("format", PictureFormat.SQUARE)),
        manner=manner_of(params.get("manner") or {}),
        variations=steps,
    )


def manner_of(values: dict[str, Any]) -> Manner:
    """Return a hand from stored values."""
    detail = values.get("detail")
    return Manner(
        values.get("line_share"),
        values.get("corner_share"),
        None if detail is None else Detail(detail),
        values.get("colours"),
        tuple(values.get("palette", ())),
    )


def order_data(order: SketchOrder) -> dict[str, Any]:
    """Return what is kept of an order with its sketch."""
    return {
        "subject": order.subject,
        "pose": order.pose,
        "format": order.format.value,
        "manner": asdict(order.manner),
        "variations": [[step.reach.value, step.seed] for step in order.variations],
    }


def _variation_params(motif: Motif, parent: Sketch | None, reach: Reach) -> dict[str, Any]:
    if parent is None or parent.seed is None:
        raise InvalidInputError(
            "Near and far variations start from a picture that the stand-in studio drew. Draw in the style "
            "of this one instead."
        )
    order = parent.order
    return {
        "subject": order.get("subject", motif.name),
        "look": parent.look,
        "wording": parent.wording,
        "pose": order.get("pose", ""),
        "format": order.get("format", PictureFormat.SQUARE.value),
        "manner": order.get("manner") or {},
        "variations": order.get("variations", []),
        "parent_seed": parent.seed,
        "reach": reach.value,
    }


def _line_of(
    motif: Motif, brief: Brief | None, style: HouseStyle, width_mm: float
) -> tuple[SubjectLine, str]:
    """Return a motif's line of the brief and its wording; a motif that is not in it is worded like the rest."""
    lines = parse_subjects(brief.subjects).lines if brief else ()
    line = next((line for line in lines if line.key == motif.name.lower()), SubjectLine(motif.name))
    rules = brief.rules if brief else ALL_RULES
    same_look = brief is not None and style.look == house_style(brief).look
    edits = brief.edits if brief and same_look else {}
    return line, compose_all((line,), style=style, rule_keys=rules, width_mm=width_mm, edits=edits)[0]
