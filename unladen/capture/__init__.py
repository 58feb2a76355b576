"""A site as recorded responses: an ordered map from URL to `Exchange`, bodies in a content-addressed store."""

from unladen.capture.files import BASE_URL, read_folder, write_folder
from unladen.capture.limits import Limits
from unladen.capture.model import Capture, Exchange
from unladen.capture.reading import read_site, recognised
from unladen.capture.store import BodyStore
from unladen.capture.zipped import read_zip, write_zip

__all__ = [
    "BASE_URL",
    "BodyStore",
    "Capture",
    "Exchange",
    "Limits",
    "read_folder",
    "read_site",
    "read_zip",
    "recognised",
    "write_folder",
    "write_zip",
]
