"""Workbooks (XLSX, XLS, ODS) as tables; a sheet is chosen by name, by default the first with data."""

from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from python_calamine import CalamineError, CalamineWorkbook, SheetVisibleEnum

from zugzwang.intake.tables import HEADER_WITHIN_ROWS, CellTable, Choices, find_header, refuse

CELLS_MAX = 40_000_000


def open_sheet(path: Path, name: str, choices: Choices) -> CellTable:
    """A sheet of a workbook, a hidden one only by name. Raises FileRefused where none has a header."""
    workbook, shown, hidden = _workbook(path, name)
    names = [*shown, *hidden]
    if not names:
        raise refuse(name, "the workbook has no sheet", "Save the sheet with the data as CSV, and load that.")
    if choices.sheet is not None and choices.sheet not in names:
        raise refuse(name, f"there is no sheet “{choices.sheet}”", f"Sheets: {', '.join(names)}.")
    chosen = [choices.sheet] if choices.sheet is not None else shown
    result = [f"The hidden sheet “{one}” is not loaded; choose it by name to load it." for one in hidden if not choices.sheet]
    for sheet in chosen:
        cells = _cells(workbook, sheet, name)
        line = choices.header_line
        row = line - 1 if line is not None else find_header(cells[:HEADER_WITHIN_ROWS])
        if row is None or row >= len(cells):
            continue
        header = [cell.strip() for cell in cells[row]]
        while header and not header[-1]:
            header.pop()
        return CellTable(path, name, header, row + 1, max(len(cells) - row - 1, 0), result, names, sheet, None, cells)
    raise refuse(name, "no sheet has a row of column names", "Put the column names above the data.")


def sheets_with_tables(path: Path, name: str) -> list[str]:
    """The visible sheets of a workbook with a row of column names."""
    workbook, shown, _ = _workbook(path, name)
    return [sheet for sheet in shown if find_header(_cells(workbook, sheet, name)[:HEADER_WITHIN_ROWS]) is not None]


def _workbook(path: Path, name: str) -> tuple[CalamineWorkbook, list[str], list[str]]:
    """A workbook, and the names of its visible and its hidden sheets (all count as visible if all are hidden)."""
    try:
        workbook = CalamineWorkbook.from_path(path)
        sheets = [sheet for sheet in workbook.sheets_metadata if str(sheet.typ).endswith("WorkSheet")]
        shown = [sheet.name for sheet in sheets if sheet.visible == SheetVisibleEnum.Visible]
        every = [sheet.name for sheet in sheets]
        return workbook, shown or every, [name for name in every if name not in shown] if shown else []
    except (CalamineError, OSError) as error:
        raise refuse(name, "the workbook cannot be opened", "Open it, save it again as XLSX, and load that.") from error


def _cells(workbook: CalamineWorkbook, sheet: str, name: str) -> list[list[str]]:
    try:
        opened = workbook.get_sheet_by_name(sheet)
        if opened.total_height * opened.total_width > CELLS_MAX:
            raise refuse(name, f"the sheet “{sheet}” has too many cells", "Save it as CSV, and load that.")
        return [[_text(cell) for cell in row] for row in opened.iter_rows()]
    except CalamineError as error:
        raise refuse(name, f"the sheet “{sheet}” cannot be read", "Save it as CSV, and load that.") from error


def _text(cell: Any) -> str:
    """A cell as CSV text."""
    if isinstance(cell, bool):
        return str(cell).lower()
    if isinstance(cell, float):
        return str(int(cell)) if cell.is_integer() else repr(cell)
    if isinstance(cell, datetime):
        return cell.date().isoformat() if cell.time() == time(0) else cell.isoformat(sep=" ")
    if isinstance(cell, date):
        return cell.isoformat()
    if isinstance(cell, timedelta):
        return str(cell.total_seconds())
    return str(cell)
