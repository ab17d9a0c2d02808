"""The grid of an atlas: which cell a number means, and where it lies. Cells count from 1, along the top row first."""

from dataclasses import dataclass

MOST_SIDE = 16


@dataclass(frozen=True)
class Grid:
    """``columns`` x ``rows`` cells of one size. ``padding`` is the share of a cell, at each of its sides, that is gutter."""

    columns: int
    rows: int
    padding: float = 0.0

    @property
    def count(self) -> int:
        """How many cells it has."""
        return self.columns * self.rows

    def place(self, index: int) -> tuple[int, int]:
        """Column and row, the top row being 0; past the end it begins anew."""
        row, column = divmod((index - 1) % self.count, self.columns)
        return column, row

    def box(self, index: int) -> tuple[float, float, float, float]:
        """Least u, least v, most u and most v of what is inside a cell's gutters; v up."""
        column, row = self.place(index)
        bottom = self.rows - 1 - row
        return (
            (column + self.padding) / self.columns,
            (bottom + self.padding) / self.rows,
            (column + 1 - self.padding) / self.columns,
            (bottom + 1 - self.padding) / self.rows,
        )

    def at(self, u: float, v: float) -> int:
        """The number of the cell that holds a place; coordinates repeat."""
        column = min(int(u % 1.0 * self.columns), self.columns - 1)
        bottom = min(int(v % 1.0 * self.rows), self.rows - 1)
        return (self.rows - 1 - bottom) * self.columns + column + 1

    def content(self, columns: int, rows: int) -> tuple[int, int]:
        """How many pixels wide and high a cell is without its gutters, on a picture of ``columns`` x ``rows`` pixels."""
        share = 1 - 2 * self.padding
        return max(1, round(columns / self.columns * share)), max(1, round(rows / self.rows * share))

    def clean_levels(self, columns: int, rows: int) -> int:
        """How many levels below the first keep cells apart on a picture of ``columns`` x ``rows`` pixels.

        At a level a pixel is 2^level wide. Filtering inside a cell reads at most one such pixel beyond its content,
        so that the gutter must hold one, and cells must begin where such a pixel does.
        """
        gutter = min(columns / self.columns, rows / self.rows) * self.padding
        level = 0
        while _is_whole(columns / self.columns, level + 1) and _is_whole(rows / self.rows, level + 1):
            if gutter < 2 ** (level + 1):
                break
            level += 1
        return level if gutter >= 1 else 0


def _is_whole(size: float, level: int) -> bool:
    return size == int(size) and int(size) % 2**level == 0
