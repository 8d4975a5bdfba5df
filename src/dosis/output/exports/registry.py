"""The exports there are, in the order in which a page offers them."""

from dosis.output.exports.again import JSON
from dosis.output.exports.delimited import CSV, TSV
from dosis.output.exports.export import Export
from dosis.output.exports.workbook import XLSX

EXPORTS: dict[str, Export] = {export.form: export for export in (CSV, TSV, XLSX, JSON)}
