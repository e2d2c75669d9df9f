"""On PostgreSQL, whose indexes hold no text of more than 2,700 bytes: texts are told apart by their digest, and found by a hash.
Where a table says that a text is there once, this says the same."""

from django.db import migrations

TABLES = {"store_page": "one_page_an_address", "store_query": "one_query_a_text"}


def by_digest(apps, schema_editor):
    if schema_editor.connection.vendor != "postgresql":
        return
    for table, constraint in TABLES.items():
        schema_editor.execute(f"ALTER TABLE {table} DROP CONSTRAINT {constraint}")
        schema_editor.execute(f"CREATE UNIQUE INDEX {constraint} ON {table} (site_id, md5(text))")
        schema_editor.execute(f"CREATE INDEX {table}_text ON {table} USING hash (text)")


def by_text(apps, schema_editor):
    if schema_editor.connection.vendor != "postgresql":
        return
    for table, constraint in TABLES.items():
        schema_editor.execute(f"DROP INDEX {table}_text")
        schema_editor.execute(f"DROP INDEX {constraint}")
        schema_editor.execute(f"ALTER TABLE {table} ADD CONSTRAINT {constraint} UNIQUE (site_id, text)")


class Migration(migrations.Migration):
    dependencies = [("store", "0019_people")]
    operations = [migrations.RunPython(by_digest, by_text)]
