from django.apps import AppConfig


class TasksConfig(AppConfig):
    name = "server.apps.tasks"
    label = "tasks"
