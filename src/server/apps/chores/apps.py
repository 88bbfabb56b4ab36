from django.apps import AppConfig


class Config(AppConfig):
    name = "server.apps.chores"
    label = "chores"
