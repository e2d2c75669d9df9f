from django.apps import AppConfig


class StoreConfig(AppConfig):
    name = "zugzwang.store"
    label = "store"
