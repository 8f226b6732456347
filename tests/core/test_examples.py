"""The worked examples at the head of the hardest files are true."""

import doctest

import pytest

from tin_bucket.core.table import flatten, row_expansion, shred


@pytest.mark.parametrize("module", [flatten, row_expansion, shred], ids=lambda module: module.__name__)
def test_the_example_at_the_head_of_a_file_is_true(module):
    found = doctest.testmod(module)
    assert found.attempted > 0
    assert found.failed == 0
