"""Board: functions × sides × engine, each cell marked or waiting."""

from __future__ import annotations

from dataclasses import dataclass

from cold_arc.core.job.progress import Progress
from cold_arc.core.job.proofs import board, board_functions
from cold_arc.core.work import proof


@dataclass(frozen=True)
class BoardCell:
    """One cell: what it is, its result, and what a tap turns it into."""

    cell: proof.Cell
    result: str | None
    tap: str

    @property
    def word(self) -> str:
        """Its result in a word."""
        return proof.RESULTS[self.result] if self.result else "Untested"


@dataclass(frozen=True)
class BoardRow:
    """One function and its cells, left then right, engine off then on."""

    function: str
    label: str
    cells: tuple[BoardCell, ...]

    @property
    def untested(self) -> bool:
        """Whether a cell waits."""
        return any(cell.result is None for cell in self.cells)


@dataclass(frozen=True)
class Board:
    """One pass of the board."""

    stage_pass: str
    rows: tuple[BoardRow, ...]
    absent: tuple[tuple[str, str], ...]
    untested: int

    @property
    def under_hand(self) -> BoardCell | None:
        """The next cell to test: the first that waits."""
        return next((cell for row in self.rows for cell in row.cells if cell.result is None), None)

    @property
    def faults(self) -> list[tuple[str, str]]:
        """What is wrong on it, each once: in words, and as the diagnosis calls it."""
        shown = [
            cell.result for row in self.rows for cell in row.cells if cell.result in proof.SYMPTOMS
        ]
        return [
            (proof.RESULTS[result], proof.SYMPTOMS[result])
            for result in dict.fromkeys(shown)
            if result
        ]

    @property
    def dark(self) -> list[proof.Cell]:
        """The cells that stayed dark."""
        return [cell.cell for row in self.rows for cell in row.cells if cell.result == "dark"]


def build_board(progress: Progress, stage_pass: str) -> Board:
    """The board of one pass."""
    results = board(progress.record, stage_pass)
    functions = board_functions(progress, stage_pass)
    rows = []
    for function in functions:
        cells = [
            BoardCell(cell, results.get(cell), proof.next_result(results.get(cell)))
            for cell in proof.cells([function])
        ]
        rows.append(BoardRow(function, proof.FUNCTIONS[function], tuple(cells)))
    absent = tuple(
        (name, proof.FUNCTIONS[name]) for name in sorted(progress.record.absent_functions())
    )
    return Board(
        stage_pass, tuple(rows), absent, len(proof.untested(proof.cells(functions), results))
    )
