"""The application's name for Django."""

from django.apps import AppConfig


class ReviewsConfig(AppConfig):
    """Reviews."""

    name = "server.reviews"
    label = "reviews"
