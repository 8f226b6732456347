"""The commonest jobs take no more clicks and keys than they may; each ends with what was wanted."""

import pytest

from tests.browser.jobs import JOBS, do

pytestmark = pytest.mark.browser


@pytest.mark.parametrize("job", [job for job in JOBS if not job.furnished], ids=lambda job: job.run.__name__)
def test_a_job_from_an_empty_desk(job, hands, ferries):
    done = do(job, hands, ferries)
    assert (done.clicks <= job.clicks, done.keys <= job.keys) == (True, True), done


@pytest.mark.parametrize("job", [job for job in JOBS if job.furnished], ids=lambda job: job.run.__name__)
def test_a_job_with_the_queries_of_a_desk(job, furnished, ferries):
    done = do(job, furnished, ferries)
    assert (done.clicks <= job.clicks, done.keys <= job.keys) == (True, True), done
