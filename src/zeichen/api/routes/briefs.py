"""Briefs: written, put into words, run, run again; subjects proposed from what sells."""

import secrets
from datetime import date

from fastapi import APIRouter

from zeichen.api.routes.collections import collection_view
from zeichen.api.schemas import (
    BriefBody,
    CollectionView,
    DemandRow,
    RunBody,
    SubjectWording,
    WordingPreview,
)
from zeichen.api.workplace import Place
from zeichen.core.briefing import parse_subjects
from zeichen.core.errors import InvalidInputError
from zeichen.jobs.ordering import Wish, draw_params, wordings
from zeichen.standins.stall import demand_for_theme
from zeichen.standins.studio import known_subject
from zeichen.store import briefs, collections
from zeichen.store.records import Job, KeptBrief

router = APIRouter(tags=["briefs"])


@router.put("/collections/{collection_id}/brief")
def save_brief(collection_id: int, body: BriefBody, place: Place) -> CollectionView:
    """Keep the brief, and make a motif for each new subject."""
    subjects = [line.subject for line in parse_subjects(body.subjects).lines]
    wordings(body.value(), width_mm=100.0)
    with place.database.write() as session:
        briefs.save_brief(session, collection_id, body.value(), subjects)
    return collection_view(place, collection_id)


@router.post("/collections/{collection_id}/wording")
def preview_wording(collection_id: int, body: BriefBody, place: Place) -> WordingPreview:
    """Compose the wording of each subject without keeping anything."""
    with place.database.read() as session:
        chosen = collections.collection(session, collection_id)
        width_mm = collections.yardstick(session, chosen.yardstick_id).yardstick.width_mm
    brief = body.value()
    return WordingPreview(
        lines=[
            SubjectWording(
                subject=line.subject,
                pose=line.pose,
                note=line.note,
                on=line.on,
                wording=wording,
                edited=line.key in brief.edits,
                drawable=known_subject(line.subject) is not None,
            )
            for line, wording in wordings(brief, width_mm=width_mm)
        ],
        repeated=list(parse_subjects(body.subjects).repeated),
    )


@router.get("/collections/{collection_id}/briefs")
def list_briefs(collection_id: int, place: Place) -> list[KeptBrief]:
    """Return the briefs that pictures were drawn from, newest first."""
    with place.database.read() as session:
        collections.collection(session, collection_id)
        return briefs.run_briefs(session, collection_id)


@router.post("/collections/{collection_id}/run", status_code=202)
async def run_brief(collection_id: int, body: RunBody, place: Place) -> list[Job]:
    """Draw every subject of the brief that is on; each is a job of its own."""
    with place.database.read() as session:
        brief = briefs.latest_brief(session, collection_id)
        by_name = {motif.name.lower(): motif for motif in collections.motifs(session, collection_id)}
    lines = [line for line in parse_subjects(brief.subjects).lines if line.on] if brief else []
    wanted = [by_name[line.key] for line in lines if line.key in by_name]
    if not place.draws_by_address():
        wanted = [motif for motif in wanted if known_subject(motif.name) is not None]
    if not wanted:
        raise InvalidInputError("Nothing to draw: no subject of the brief is on that the generator can draw.")
    spent = place.spend(len(wanted) * body.count, confirmed=body.confirmed)
    orders = []
    with place.database.write() as session:
        briefs.mark_run(session, collection_id)
        for motif in wanted:
            wish = Wish(body.count, secrets.randbelow(2**31))
            orders.append((motif, {**draw_params(session, motif.id, wish), **spent}))
    return [
        await place.runner.submit("draw", f"Draw {motif.name.lower()}", params) for motif, params in orders
    ]


@router.get("/stall/demand")
def list_demand(theme: str) -> list[DemandRow]:
    """Propose subjects of a theme from the stall's figures."""
    found = demand_for_theme(theme, day=date.today().toordinal())
    rows = [DemandRow.model_validate(each) for each in found]
    return [row.model_copy(update={"drawable": known_subject(row.subject) is not None}) for row in rows]
