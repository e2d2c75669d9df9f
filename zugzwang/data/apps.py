from django.apps import AppConfig


class StoreConfig(AppConfig):
    name = "zugzwang.data"
    label = "store"
