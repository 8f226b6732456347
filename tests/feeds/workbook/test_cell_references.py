"""References in formulas: moved with their rows, and filled down."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.feeds.workbook.moves import RowMoves
from tin_bucket.feeds.workbook.references import Cells, cells_of, letters, move_references, number, translate

GROWN = RowMoves((1, 6), 4, 8, 18, 10)


@pytest.mark.parametrize(
    ("formula", "after"),
    [
        ("SUM(B4:B8)", "SUM(B4:B18)"),
        ("SUM($B$3:$B$8)/COUNT(Data!B4:B8)", "SUM($B$3:$B$18)/COUNT(Data!B4:B18)"),
        ("'Data'!B10*2+data!$C$9", "'Data'!B20*2+data!$C$19"),
        ("B8-B7", "B8-B7"),
        ("SUM(4:8)+SUM($10:$11)", "SUM(4:18)+SUM($20:$21)"),
        ("SUM(B:B)+A$3", "SUM(B:B)+A$3"),
        ('"B4:B8 and B10"&B10', '"B4:B8 and B10"&B20'),
        ('"say ""B10"""&B10', '"say ""B10"""&B20'),
        ("Other!B4:B8+'It''s B10'!B10", "Other!B4:B8+'It''s B10'!B10"),
        ("[1]Data!B4:B8+'[2]Data'!B10", "[1]Data!B4:B8+'[2]Data'!B10"),
        ("Sales[[#This Row],[B10]]+LOG10(B10)", "Sales[[#This Row],[B10]]+LOG10(B20)"),
        ("name.B10+B10.5+_B10", "name.B10+B10.5+_B10"),
        ("IF(B10>1E10,B4:B5,-B10)", "IF(B20>1E10,B4:B5,-B20)"),
        ("Data:Other!B4:B8", "Data:Other!B4:B8"),
        ("J10:J11+J4:J8", "J20:J21+J4:J8"),
        ("(Data!$B$4:$B$8,Data!$D$4:$D$8)", "(Data!$B$4:$B$18,Data!$D$4:$D$18)"),
    ],
)
def test_references_move_with_their_rows(formula, after):
    assert move_references(formula, "Data", "Data", GROWN.reference) == after


def test_references_of_another_sheet_move_only_where_it_is_named():
    assert move_references("B4:B8+Data!B4:B8", "Board", "Data", GROWN.reference) == "B4:B8+Data!B4:B18"
    moved = move_references("B10+'Harbour, desk'!B10", "Board", "Harbour, desk", GROWN.reference)
    assert moved == "B10+'Harbour, desk'!B20"


def test_what_stands_beside_stays_where_only_the_tables_columns_move():
    moves = RowMoves((1, 6), 4, 8, 18, 10, whole_rows=False)
    assert move_references("J10+B10", "Data", "Data", moves.reference) == "J10+B20"


def test_nothing_below_leaves_room():
    moves = RowMoves((1, 6), 4, 8, 18)
    assert move_references("SUM(B4:B100)+SUM(B4:B12)+B40", "D", "D", moves.reference) == "SUM(B4:B100)+SUM(B4:B18)+B40"
    shrunk = RowMoves((1, 6), 4, 8, 5)
    assert move_references("SUM(B4:B8)+SUM(B4:B100)", "D", "D", shrunk.reference) == "SUM(B4:B5)+SUM(B4:B100)"
    empty = RowMoves((1, 6), 4, 8, 3, -5)
    assert move_references("SUM(B4:B8)+B10", "D", "D", empty.reference) == "SUM(B4:B4)+B5"


def test_rows_that_are_taken_out():
    moves = RowMoves((1, 6), 4, 8, 6, -2, rows={4: None, 5: 4, 6: None, 7: 5, 8: 6})
    told = move_references("B5+B7+SUM(B4:B8)+SUM(B5:B7)+B4+B10", "D", "D", moves.reference)
    assert told == "B4+B5+SUM(B4:B6)+SUM(B4:B5)+B4+B8"
    assert moves.ranges("A4 B5:B7 J4 C4:C8") == "B4:B5 J4 C4:C6"


def test_formulas_are_filled_down():
    assert translate("D4*2+$D$3+D$4+$D4", 3) == "D7*2+$D$3+D$4+$D7"
    assert translate("SUM(D$4:D4)", 2, 1) == "SUM(E$4:E6)"
    assert translate("A1+4:5", -1) == "#REF!+3:4"
    assert translate("'a B4'!B4&\"B4\"&Sales[[#This Row],[B4]]", 1) == "'a B4'!B5&\"B4\"&Sales[[#This Row],[B4]]"


@given(st.integers(1, 16_384))
def test_letters_and_numbers_are_each_others_way_back(column):
    assert number(letters(column)) == column


CELL = st.tuples(st.sampled_from("ABJ"), st.integers(1, 40))


@given(CELL, st.integers(0, 30), st.integers(3, 30))
def test_growing_and_shrinking_back_gives_the_same_reference(cell, more, rows):
    """A range that grew with its table is the same again when the table is as long as it was."""
    column, row = cell
    text = f"{column}{row}" if not more else f"{column}{row}:{column}{row + more}"
    old = cells_of(text)
    grow, shrink = RowMoves((1, 6), 4, 8, 3 + rows, rows - 5), RowMoves((1, 6), 4, 3 + rows, 8, 5 - rows)
    if rows > 5:
        assert shrink.cells(grow.cells(old)) == old


@given(st.lists(st.booleans(), min_size=1, max_size=12))
def test_every_kept_row_has_a_place_of_its_own(kept):
    """Rows that are kept stay in order, without gaps; one that is gone has no place."""
    rows, at = {}, 4
    for number_, stays in enumerate(kept, 4):
        rows[number_] = at if stays else None
        at += stays
    moves = RowMoves((1, 2), 4, 3 + len(kept), 3 + sum(kept), sum(kept) - len(kept), rows=rows)
    places = [moves.row(number_, 1) for number_ in range(4, 4 + len(kept))]
    assert [place for place in places if place is not None] == list(range(4, 4 + sum(kept)))
    assert moves.row(4 + len(kept)) == 4 + sum(kept)
    assert str(Cells(1, 4, 1, 4)) == "A4"
