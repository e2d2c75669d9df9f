from django.db import migrations


def give_old_blocks_a_load(apps, schema_editor):
    """Blocks from before loads were kept get one, so that taking back later loads leaves them."""
    Block, Load, LoadPart = (apps.get_model("store", name) for name in ("Block", "Load", "LoadPart"))
    loads = {}
    for block in Block.objects.order_by("site_id", "month"):
        load = loads.get(block.site_id)
        if load is None:
            load = loads[block.site_id] = Load.objects.create(
                site_id=block.site_id, source="search", name="Loaded before loads were kept", first_day=block.first_day
            )
        LoadPart.objects.create(
            load=load, grain=block.grain, month=block.month, mode="replace", rows=block.rows, payload=block.payload
        )
        load.rows, load.last_day = load.rows + block.rows, block.last_day
        load.save()


class Migration(migrations.Migration):
    dependencies = [("store", "0002_loads_sources_rules")]
    operations = [migrations.RunPython(give_old_blocks_a_load, migrations.RunPython.noop)]
