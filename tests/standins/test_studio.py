"""The stand-in studio: the same order gives the same picture, seeds differ, faults are what they claim."""

import itertools

import numpy as np
import pytest

from zeichen.core.briefing import Look, SketchOrder
from zeichen.core.errors import InvalidInputError
from zeichen.core.raster import edge_level
from zeichen.standins.studio import SUBJECTS, Studio


def drawn(subject="snail", look=Look.SILHOUETTE, seed=1, faults=0.0, size_px=256):
    return Studio(faults=faults).draw(SketchOrder(subject, look, seed, size_px=size_px))


@pytest.mark.parametrize("look", list(Look))
@pytest.mark.parametrize("subject", sorted(SUBJECTS))
def test_a_figure_stands_in_an_empty_margin(subject, look):
    grey = drawn(subject, look, 5).grey()
    dark = grey <= edge_level(grey)
    assert 0.03 < dark.mean() < 0.5
    edge = np.concatenate([dark[:8].ravel(), dark[-8:].ravel(), dark[:, :8].ravel(), dark[:, -8:].ravel()])
    assert not edge.any()
    rows, columns = np.nonzero(dark)
    assert (
        abs((columns.min() + columns.max()) / 2 - 128) < 30 and abs((rows.min() + rows.max()) / 2 - 128) < 40
    )


def test_the_same_order_gives_the_same_picture_and_another_seed_another():
    assert np.array_equal(drawn(seed=9, faults=1).rgb, drawn(seed=9, faults=1).rgb)
    masks = [drawn(seed=seed).grey() < 128 for seed in range(5)]
    for a, b in itertools.combinations(masks, 2):
        assert (a != b).mean() > 0.02


def test_looks_are_looks():
    silhouette, line, flat = (drawn(look=look).rgb for look in Look)
    assert (silhouette.mean(axis=2) < 80).mean() > 2 * (line.mean(axis=2) < 80).mean()
    spread = flat.astype(int).max(axis=2) - flat.astype(int).min(axis=2)
    assert (spread > 60).mean() > 0.05
    assert (line.astype(int).max(axis=2) - line.min(axis=2) > 60).mean() < 0.001


def test_the_three_looks_of_a_seed_show_one_pose():
    boxes = []
    for look in Look:
        rows, columns = np.nonzero(drawn("teapot", look, 3).grey() < 200)
        boxes.append((rows.min(), rows.max(), columns.min(), columns.max()))
    assert np.ptp(np.array(boxes), axis=0).max() <= 8


def test_pictures_are_soft_and_noisy_as_generated_ones_are():
    grey = drawn(faults=1, size_px=512).grey()
    assert ((grey > 60) & (grey < 200)).mean() > 0.002
    ground = grey[:40, :40]
    assert 240 <= ground.mean() <= 255


def test_faults_can_be_turned_off_and_up():
    def spots(faults):
        return sum(int((drawn(seed=s, faults=faults).grey()[-24:, 190:] < 180).sum() > 3) for s in range(40))

    assert spots(0) == 0 < spots(3)


@pytest.mark.parametrize(
    ("subject", "advice"),
    [("snial", "Did you mean snail"), ("xylophone", "It knows: snail"), ("tea pot", "teapot")],
)
def test_unknown_subjects_are_refused_with_near_ones(subject, advice):
    with pytest.raises(InvalidInputError, match=f"can't draw.*{advice}"):
        drawn(subject)
