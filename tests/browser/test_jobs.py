"""The commonest jobs take no more clicks and keys than they may; each ends with what was wanted."""

import pytest

from tests.browser.jobs import JOBS, do, table

pytestmark = pytest.mark.browser


@pytest.fixture(scope="module")
def told():
    """Prints what was done, for `make jobs`."""
    done = []
    yield done
    print("\n\n" + "\n".join(table(done)))


@pytest.mark.parametrize("job", [job for job in JOBS if not job.furnished], ids=lambda job: job.run.__name__)
def test_a_job_from_an_empty_desk(job, hands, ferries, told):
    told.append(do(job, hands, ferries))
    assert told[-1].clicks <= job.clicks
    assert told[-1].keys <= job.keys


@pytest.mark.parametrize("job", [job for job in JOBS if job.furnished], ids=lambda job: job.run.__name__)
def test_a_job_with_the_queries_of_a_desk(job, furnished, ferries, told):
    told.append(do(job, furnished, ferries))
    assert told[-1].clicks <= job.clicks
    assert told[-1].keys <= job.keys
