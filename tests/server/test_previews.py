"""Previews: uploaded pages under origins of their own."""

from __future__ import annotations

from server.previews.labels import preview_address
from server.previews.wsgi import application, respond
from server.sites import storage
from tests.server.cases import ServerCase


class Previews(ServerCase):
    def test_each_site_and_side_has_a_host_of_its_own(self) -> None:
        site = self.new_site()
        address = preview_address(site, "found")
        self.assertRegex(address, r"^http://found-[0-9a-f]{32}\.localhost:\d+/$")
        host = address.removeprefix("http://").rstrip("/")
        self.assertEqual(respond(host, "/", {}).status, 200)
        self.assertEqual(respond(host, "/a.jpg", {}).headers[0], ("content-type", "image/jpeg"))
        self.assertEqual(respond(host, "/gone.jpg", {}).status, 404)
        self.assertEqual(respond(host, "/", {}, "POST").status, 404)
        self.assertEqual(respond(host.replace("found-", "now-"), "/", {}).status, 404)
        for wrong in ("localhost:8701", "127.0.0.1:8701", "found-x.localhost", "found-" + "0" * 32 + ".localhost"):
            self.assertEqual(respond(wrong, "/", {}).status, 404, wrong)

    def test_pages_are_sandboxed(self) -> None:
        site = self.new_site()
        host = preview_address(site, "found").removeprefix("http://").rstrip("/")
        seen: dict[str, str] = {}

        def start(status: str, headers: list[tuple[str, str]]) -> None:
            seen.update(headers, status=status)

        body = b"".join(application({"REQUEST_METHOD": "GET", "PATH_INFO": "/index.html", "HTTP_HOST": host}, start))
        self.assertEqual(seen["status"], "200 OK")
        self.assertEqual(int(seen["Content-Length"]), len(body))
        self.assertIn("sandbox allow-scripts;", seen["Content-Security-Policy"])
        self.assertNotIn("allow-same-origin", seen["Content-Security-Policy"])
        self.assertNotIn("Set-Cookie", seen)

    def test_a_deleted_site_has_no_preview(self) -> None:
        site = self.new_site()
        host = preview_address(site, "found").removeprefix("http://").rstrip("/")
        self.assertEqual(respond(host, "/a.jpg", {}).status, 200)
        site.delete()
        storage.remove(site.pk)
        self.assertEqual(respond(host, "/a.jpg", {}).status, 404)
