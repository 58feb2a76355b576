"""Small sites made by hand for tests, and real ones from the registry."""

from __future__ import annotations

import contextlib
import fcntl
import hashlib
import io
import json
import os
import re
import shutil
import subprocess
import sys
import tarfile
import tempfile
import unittest
import urllib.request
import zipfile
from pathlib import Path
from urllib.parse import urljoin

import numpy as np
from PIL import Image

from unladen.capture import BodyStore, Capture, read_folder
from unladen.cli import main

PAGE = "<!doctype html><html><head><meta charset=utf-8><title>{title}</title>{head}</head><body>{body}</body></html>"


def page(body: str, head: str = "", title: str = "Test") -> bytes:
    """A page in UTF-8."""
    return PAGE.format(title=title, head=head, body=body).encode()


def photo(
    width: int,
    height: int,
    seed: int = 1,
    format: str = "JPEG",
    quality: int = 92,
    grain: int = 12,
    **options: object,
) -> bytes:
    """A picture that is neither flat nor noise."""
    random = np.random.RandomState(seed)
    coarse = Image.fromarray(random.randint(0, 256, (12, 16, 3), dtype=np.uint8)).resize(
        (width, height), Image.Resampling.BICUBIC
    )
    fine = random.randint(-grain, grain + 1, (height, width, 1))
    pixels = np.clip(np.asarray(coarse).astype(int) + fine, 0, 255).astype(np.uint8)
    out = io.BytesIO()
    if format == "JPEG":
        options["quality"] = quality
    Image.fromarray(pixels).save(out, format, **options)  # type: ignore[arg-type]
    return out.getvalue()


def zip_of(files: dict[str, bytes], target: Path) -> Path:
    """A ZIP file with these members."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, body in files.items():
            archive.writestr(name, body)
    return target


def run_cli(*arguments: object) -> tuple[int, str, str]:
    """The command line in this process: its exit code, standard output and standard error."""
    out, errors = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(errors):
        code = main([str(argument) for argument in arguments])
    return code, out.getvalue(), errors.getvalue()


class FolderCase(unittest.TestCase):
    """A test with a folder of its own that is gone afterwards."""

    def setUp(self) -> None:
        super().setUp()
        self.folder = Path(tempfile.mkdtemp(prefix="mule-test-"))
        self.addCleanup(shutil.rmtree, self.folder, True)
        self.store = BodyStore(self.folder / "bodies")

    def capture(self, files: dict[str, bytes]) -> Capture:
        """A capture of these files."""
        source = Path(tempfile.mkdtemp(dir=self.folder))
        for name, body in files.items():
            (source / name).parent.mkdir(parents=True, exist_ok=True)
            (source / name).write_bytes(body)
        return read_folder(source, self.store)


def registry_package(name: str, version: str) -> Path:
    """The unpacked npm package, fetched once into the data folder."""
    target = _corpora() / f"{name}-{version}"
    with (target.parent / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not target.exists():
            with tempfile.TemporaryDirectory(dir=target.parent) as folder:
                command = ["npm", "pack", "--silent", "--pack-destination", folder, f"{name}@{version}"]
                subprocess.run(command, check=True, capture_output=True, cwd=folder)
                archive = next(Path(folder).glob("*.tgz"))
                with tarfile.open(archive) as packed:
                    packed.extractall(folder, filter="data")
                (Path(folder) / "package").rename(target)
    return target


def registry_sdist(name: str, version: str, member: str) -> Path:
    """A folder of a PyPI source package, fetched once into the data folder.

    Only fetched: `pip download` would build the package to learn its metadata.
    """
    target = _corpora() / f"{name}-{version}"
    with (target.parent / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not target.exists():
            with tempfile.TemporaryDirectory(dir=target.parent) as folder:
                archive = _fetch_sdist(name, version, Path(folder))
                shutil.unpack_archive(archive, Path(folder) / "out")
                next((Path(folder) / "out").iterdir()).rename(target)
    return target / member


def _fetch_sdist(name: str, version: str, folder: Path) -> Path:
    """The source package's archive, from the project's page in the index that pip is set to (PEP 691, JSON)."""
    told = subprocess.run(
        [sys.executable, "-m", "pip", "index", "versions", name, "-vv"], check=True, capture_output=True, text=True
    )
    pages = re.findall(r"^Getting page (https?://\S+)$", told.stdout, re.M)
    for address in pages:
        request = urllib.request.Request(address, headers={"Accept": "application/vnd.pypi.simple.v1+json"})
        with urllib.request.urlopen(request) as answer:
            files = json.load(answer)["files"]
        wanted = [f"{name}-{version}{ending}".lower() for ending in (".tar.gz", ".zip")]
        for file in files:
            if file["filename"].lower().replace("_", "-") in wanted:
                with urllib.request.urlopen(urljoin(address, file["url"])) as answer:
                    body = answer.read()
                if hashlib.sha256(body).hexdigest() != file["hashes"]["sha256"]:
                    raise ValueError(f"{file['filename']}: is not what the index says it is")
                (folder / file["filename"]).write_bytes(body)
                return folder / file["filename"]
    raise LookupError(f"{name} {version}: there is no source package in the index that pip is set to")


def _corpora() -> Path:
    data = Path(os.environ.get("MULE_DATA") or Path(__file__).resolve().parent.parent / "var")
    (data / "corpora").mkdir(parents=True, exist_ok=True)
    return data / "corpora"
