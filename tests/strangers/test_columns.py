"""Made-up columns: what their values mean is proposed rightly, and nothing is proposed for what means no more."""

import pytest

from tests.strangers.columns import NOW, SPELLINGS, make_column
from tin_bucket.core.detect.types import detect_types

SEEDS = range(400)


def test_every_spelling_is_met():
    assert {make_column(seed).spelling for seed in SEEDS} == set(SPELLINGS)


@pytest.mark.parametrize("spelling", sorted(SPELLINGS))
def test_the_first_proposal_is_what_a_person_would_see(spelling):
    for column in (made for made in map(make_column, SEEDS) if made.spelling == spelling):
        guesses = detect_types(column.values, column.name, NOW)
        assert (guesses[0].kind if guesses else "") == column.means, column
