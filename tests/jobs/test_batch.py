"""Batches: here, on a Dask cluster of two workers, with a worker lost half-way, with bad pictures among good."""

import os
import signal
import time

import pytest

from samples import disc_mask, picture_of
from zeichen.core.errors import FormatError, InvalidInputError, OutsideError
from zeichen.core.formats.picture import write_png
from zeichen.core.tracing.settings import TraceSettings
from zeichen.jobs.batch import executor_for, run_batch
from zeichen.jobs.tracing import TraceOrder, trace_file


def orders(count: int) -> list[TraceOrder]:
    """Discs that grow from picture to picture, so that no two answers are alike."""
    made = []
    for k in range(count):
        picture = picture_of(disc_mask(96, (48, 48), 20 + k, fine=4))
        made.append(TraceOrder(f"disc {k}.png", write_png(picture.rgb), TraceSettings()))
    return made


def test_a_batch_here_gives_every_picture_its_drawing_and_says_what_is_wrong_with_a_bad_one():
    batch = [*orders(3), TraceOrder("broken.png", b"no picture", TraceSettings())]
    with executor_for("local") as crew:
        results = dict(run_batch(crew, trace_file, batch))
    assert len(results) == 4 and isinstance(results[3], FormatError)
    assert len({results[k].svg for k in range(3)}) == 3


def test_one_slow_picture_tells_how_far_it_is():
    told = []
    with executor_for("local", 1) as crew:
        results = dict(run_batch(crew, in_four_steps, [0.5], report=told.append))
    assert results == {0: 0.5}
    assert any(0.0 < share < 1.0 for share in told) and told[-1] == 1.0 and told == sorted(told)


def in_four_steps(seconds, step):
    for k in range(1, 5):
        time.sleep(seconds)
        step(k / 4)
    return seconds


@pytest.mark.parametrize("where", ["dask://", "dask://host", "ftp://host:1", "somewhere", "dask://host:port"])
def test_an_executor_that_is_none_is_refused(where):
    with pytest.raises(InvalidInputError, match=r"local or dask://HOST:PORT"), executor_for(where):
        pass


@pytest.fixture(scope="module")
def cluster():
    from distributed import LocalCluster

    with LocalCluster(
        n_workers=2, threads_per_worker=1, processes=True, dashboard_address=None, silence_logs=50
    ) as made:
        yield made


def address(cluster) -> str:
    return cluster.scheduler_address.replace("tcp://", "dask://")


@pytest.mark.filterwarnings("ignore")
def test_a_cluster_gives_the_same_drawings(cluster):
    batch = orders(4)
    with executor_for(address(cluster)) as crew:
        results = dict(run_batch(crew, trace_file, batch))
    assert [results[k].svg for k in range(4)] == [trace_file(order).svg for order in batch]


@pytest.mark.filterwarnings("ignore")
def test_a_worker_lost_half_way_loses_nothing(cluster):
    from distributed import Client

    with Client(cluster.scheduler_address, set_as_default=False) as client:
        workers = client.run(os.getpid)
    batch = orders(10)
    results = {}
    with executor_for(address(cluster)) as crew:
        for number, result in run_batch(crew, trace_file, batch):
            if not results:
                os.kill(next(iter(workers.values())), signal.SIGKILL)
            results[number] = result
    assert sorted(results) == list(range(10))
    assert len({result.svg for result in results.values()}) == 10


@pytest.mark.filterwarnings("ignore")
def test_a_scheduler_that_does_not_answer_is_said(monkeypatch):
    import distributed

    def refuse(*_args, **_options):
        raise OSError("timed out")

    monkeypatch.setattr(distributed, "Client", refuse)
    with pytest.raises(OutsideError, match="No Dask scheduler answers"), executor_for("dask://127.0.0.1:1"):
        pass
