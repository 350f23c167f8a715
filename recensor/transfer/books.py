"""Looking all books through: every table, and every row as what it is."""

from collections.abc import Iterator

from django.db import connection

from recensor.transfer import backup, checks


def faults() -> Iterator[str]:
    """What is wrong with the books, one line for each fault."""
    yield from _damaged_tables()
    yield from checks.faults()


def _damaged_tables() -> Iterator[str]:
    tables = ", ".join(connection.ops.quote_name(model._meta.db_table) for model in backup.kept())
    with connection.cursor() as cursor:
        cursor.execute(f"CHECK TABLE {tables}")
        for table, _, kind, text in cursor.fetchall():
            if kind in ("error", "warning"):
                yield f"table {table}: {text}"
