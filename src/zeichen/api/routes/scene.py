"""What the screens need to know once, and whether the app is well."""

from fastapi import APIRouter

from zeichen import __version__
from zeichen.api.schemas import ProcessView, RuleView, Scene
from zeichen.core.briefing import RULES, Detail, Look, PictureFormat
from zeichen.core.briefing.style import FIGURE_SHARE
from zeichen.core.packing.listing import USUAL_LICENCE
from zeichen.core.proofing import Process, usual_limits
from zeichen.standins.studio import SUBJECTS

router = APIRouter(tags=["scene"])


@router.get("/scene")
def get_scene() -> Scene:
    """Return looks, rules, subjects the stand-in knows, and the usual limits of each process."""
    return Scene(
        version=__version__,
        subjects=list(SUBJECTS),
        looks=list(Look),
        details=list(Detail),
        formats=list(PictureFormat),
        figure_share=FIGURE_SHARE,
        rules=[RuleView(key=rule.key, sentence=rule.sentence) for rule in RULES],
        processes=[ProcessView(process=process, limits=usual_limits(process)) for process in Process],
        licence=USUAL_LICENCE,
    )
