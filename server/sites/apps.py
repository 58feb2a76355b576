"""The app's configuration."""

from django.apps import AppConfig


class SitesConfig(AppConfig):
    """Sites and the jobs on them."""

    name = "server.sites"
    label = "sites"
