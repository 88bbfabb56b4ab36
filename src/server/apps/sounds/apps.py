from django.apps import AppConfig


class Config(AppConfig):
    name = "server.apps.sounds"
    label = "sounds"
