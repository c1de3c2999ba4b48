"""Chart text, the plainest way in. The format is described in docs/chart-text.md."""

from yellow_hinge.formats.chart_text.cells import Cells, bars_in
from yellow_hinge.formats.chart_text.reader import (
    MAX_BARS,
    MAX_BYTES,
    cleaned,
    decode,
    parse_chart,
    read,
)
from yellow_hinge.formats.chart_text.tokens import HEADERS
from yellow_hinge.formats.chart_text.transpose import transpose_text
from yellow_hinge.formats.chart_text.writer import tune_line, write

__all__ = [
    "HEADERS", "MAX_BARS", "MAX_BYTES", "Cells", "bars_in", "cleaned", "decode", "parse_chart", "read",
    "transpose_text", "tune_line", "write",
]  # fmt: skip
