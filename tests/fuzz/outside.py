"""python -m tests.fuzz.outside: files that others made to test readers with, each read as a site of a user's would be.

From the registries: html5lib's tree construction cases, tinycss2's parsing tests, the style sheets of large frameworks,
icon sets, Pillow's and piexif's test images, har-schema; and the ZIP archives of CPython's own test
suite. Prints figures; 1 is the end of a bad run.
"""

from __future__ import annotations

import json
import sys
import sysconfig
from collections.abc import Iterator
from pathlib import Path

from tests.fuzz.running import Report, feed, tell
from tests.fuzz.targets import targets
from tests.sites import registry_package, registry_sdist


def _files(*folders: Path, like: str = "*") -> Iterator[tuple[str, bytes]]:
    for folder in folders:
        for path in sorted(folder.rglob(like)):
            if path.is_file():
                yield path.name, path.read_bytes()


def _html() -> Iterator[tuple[str, bytes]]:
    for name, data in _files(registry_sdist("html5lib", "1.1", "html5lib/tests/testdata"), like="*.dat"):
        for number, case in enumerate(data.split(b"#data\n")[1:]):
            yield f"{name} {number}", case.split(b"\n#errors")[0]


def _css() -> Iterator[tuple[str, bytes]]:
    for name, data in _files(registry_sdist("tinycss2", "1.5.1", "tests"), like="*.json"):
        for number, case in enumerate(json.loads(data)):
            if isinstance(case, str):
                yield f"{name} {number}", case.encode("utf-8", "surrogatepass")
    frameworks = (("bootstrap", "5.3.3"), ("bulma", "1.0.2"), ("materialize-css", "1.0.0"), ("admin-lte", "4.10.0"))
    yield from _files(*(registry_package(*framework) for framework in frameworks), like="*.css")


def _drawings() -> Iterator[tuple[str, bytes]]:
    return _files(
        registry_package("feather-icons", "4.29.2"), registry_package("bootstrap-icons", "1.11.3"), like="*.svg"
    )


def _images() -> Iterator[tuple[str, bytes]]:
    return _files(
        registry_sdist("pillow", "13.0.0", "Tests/images"), registry_sdist("piexif", "1.1.3", "tests/images")
    )


def _zips() -> Iterator[tuple[str, bytes]]:
    debian = Path("/usr/lib/python3.11/test")  # libpython3.11-testsuite
    return _files(debian, Path(sysconfig.get_path("stdlib")) / "test", like="*.zip")


def _hars() -> Iterator[tuple[str, bytes]]:
    return _files(registry_package("har-schema", "2.0.0"), like="*.json")


def main() -> int:
    """Feed them all."""
    sources = {
        "html": _html,
        "css": _css,
        "svg": _drawings,
        "image": _images,
        "zip": _zips,
        "har": _hars,
    }
    bad = False
    for name, files in sources.items():
        report = Report()
        for called, data in files():
            feed(targets()[name], data, called, report)
        bad |= tell(name, report)
    return int(bad)


if __name__ == "__main__":
    sys.exit(main())
