"""Previews: uploaded pages under origins of their own."""

from __future__ import annotations

import json
from datetime import timedelta
from urllib.parse import quote

from django.test import Client
from django.utils import timezone

from server.previews.labels import preview_address
from server.previews.wsgi import application, respond
from server.sites import storage
from server.sites.models import PreviewKey, Site
from tests.server.cases import ServerCase


class Previews(ServerCase):
    def test_each_site_and_side_has_a_host_of_its_own(self) -> None:
        site = self.read_site()
        address = preview_address(site, "found")
        self.assertRegex(address, r"^http://found-[0-9a-f]{32}\.localhost:\d+/$")
        host = address.removeprefix("http://").rstrip("/")
        self.assertEqual(respond(host, "/", {}).status, 200)
        self.assertEqual(respond(host, "/a.jpg", {}).headers[0], ("content-type", "image/jpeg"))
        self.assertEqual(respond(host, "/gone.jpg", {}).status, 404)
        self.assertEqual(respond(host, "/", {}, "POST").status, 404)
        self.assertEqual(respond(host.replace("found-", "now-"), "/", {}).status, 404)
        for wrong in (
            "h1." + host.replace("found-", "plan-"),
            "h9." + host,
            "0" * 12 + "." + host,
            host.replace("found-", "with-"),
            "0" * 12 + "." + host.replace("found-", "with-"),
            "localhost:8701",
            "127.0.0.1:8701",
            "found-x.localhost",
            "found-" + "0" * 32 + ".localhost",
        ):
            self.assertEqual(respond(wrong, "/", {}).status, 404, wrong)

    def test_pages_are_sandboxed(self) -> None:
        site = self.read_site()
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
        site = self.read_site()
        host = preview_address(site, "found").removeprefix("http://").rstrip("/")
        self.assertEqual(respond(host, "/a.jpg", {}).status, 200)
        site.delete()
        storage.remove(site.pk)
        self.assertEqual(respond(host, "/a.jpg", {}).status, 404)

    def test_of_a_recording_only_the_bodies_are_shown_and_redirects_stay_here(self) -> None:
        entries = [
            _entry(
                "https://mill.example/", 200, "<p>home", set_cookie="a=b; Domain=localhost", x_frame_options="DENY"
            ),
            _entry("https://mill.example/old", 301, "", location="/new"),
            _entry("https://mill.example/away", 302, "", location="https://elsewhere.example/"),
            _entry("https://far.example/t.js", 200, "let a", "text/javascript"),
        ]
        har = json.dumps({"log": {"version": "1.2", "entries": entries}}).encode()
        site = self.read_site(har, "mill.har")
        host = preview_address(site, "found").removeprefix("http://").rstrip("/")

        def get(path: str, query: str = "") -> tuple[str, dict[str, str]]:
            seen: list[object] = []
            environ = {"REQUEST_METHOD": "GET", "PATH_INFO": path, "QUERY_STRING": query, "HTTP_HOST": host}
            application(environ, lambda status, headers: seen.extend([status, dict(headers)]))
            return seen[0], {name.lower(): value for name, value in seen[1].items()}  # type: ignore[return-value,attr-defined]

        status, headers = get("/")
        self.assertEqual(status, "200 OK")
        self.assertFalse({"set-cookie", "x-frame-options"} & headers.keys())
        self.assertEqual(get("/old")[1]["location"], preview_address(site, "found") + "new")
        self.assertEqual(get("/away")[0], "404 Not Found")
        # Any file of the capture by its address, and nothing that is not in it.
        self.assertEqual(get("/.unladen/file", "url=https://far.example/t.js")[0], "200 OK")
        self.assertEqual(get("/.unladen/file", "url=https://mill.example/away")[0], "404 Not Found")
        self.assertEqual(get("/.unladen/file", "url=file:///etc/passwd")[0], "404 Not Found")

    def asked(self, host: str, path: str, query: str = "", **headers: str) -> tuple[str, dict[str, str], bytes]:
        """Status, header fields and body, as the server gives them."""
        seen: dict[str, str] = {}
        environ = {"REQUEST_METHOD": "GET", "PATH_INFO": path, "QUERY_STRING": query, "HTTP_HOST": host} | headers
        body = b"".join(application(environ, lambda status, fields: seen.update(fields, status=status)))
        return seen.pop("status"), seen, body

    def host_of(self, site: Site, client: Client | None = None) -> str:
        found = self.get(f"/api/sites/{site.pk}", client)["preview_found"]
        return str(found).removeprefix("http://").rstrip("/")

    def test_a_key_belongs_to_a_session_and_ends_with_it_or_after_some_hours(self) -> None:
        site = self.read_site()
        own = self.host_of(site)
        self.assertEqual(self.host_of(site), own)
        elsewhere = Client()
        elsewhere.force_login(self.user)
        other = self.host_of(site, elsewhere)
        self.assertNotEqual(own, other)
        self.assertEqual([respond(host, "/", {}).status for host in (own, other)], [200, 200])
        elsewhere.delete("/api/session")
        self.assertEqual([respond(host, "/", {}).status for host in (own, other)], [200, 404])
        PreviewKey.objects.update(until=timezone.now() + timedelta(hours=1))
        fresh = self.host_of(site)
        self.assertNotEqual(fresh, own)
        self.assertEqual(respond(own, "/", {}).status, 200)  # what stands on a screen goes on for a while
        PreviewKey.objects.filter(until__lt=timezone.now() + timedelta(hours=2)).update(until=timezone.now())
        self.assertEqual([respond(host, "/", {}).status for host in (own, fresh)], [404, 200])

    def test_in_a_tab_of_its_own_a_page_stands_in_a_frame_that_it_cannot_leave(self) -> None:
        host = self.host_of(self.read_site())
        _, fields, body = self.asked(host, "/index.html", "a=<b>", HTTP_SEC_FETCH_DEST="document")
        self.assertIn(b'src="/index.html?a=&lt;b&gt;"', body)
        self.assertIn(f"frame-src http://{host} ", fields["Content-Security-Policy"])
        self.assertIn("default-src 'none'", fields["Content-Security-Policy"])
        _, fields, body = self.asked(host, "/index.html", HTTP_SEC_FETCH_DEST="iframe")
        self.assertIn(b"Little site", body)
        self.assertIn("frame-ancestors", fields["Content-Security-Policy"])
        self.assertEqual((fields["Vary"], fields["Referrer-Policy"]), ("Sec-Fetch-Dest", "no-referrer"))

    def test_a_single_file_runs_no_scripts_in_a_tab_of_its_own_and_no_worker_is_served(self) -> None:
        host = self.host_of(self.read_site())
        site = "url=https://site.example/index.html"
        status, fields, _ = self.asked(host, "/.unladen/file", site, HTTP_SEC_FETCH_DEST="document")
        self.assertEqual(status, "200 OK")
        self.assertTrue(fields["Content-Security-Policy"].startswith("sandbox; default-src 'none'"))
        self.assertEqual(self.asked(host, "/index.html", HTTP_SERVICE_WORKER="script")[0], "404 Not Found")

    def test_each_host_of_a_recording_has_a_name_of_its_own_that_only_its_copy_may_reach(self) -> None:
        body = '<script src="https://far.example/t.js"></script>'
        entries = [
            _entry("https://mill.example/", 200, body, "text/html"),
            _entry("https://far.example/t.js", 200, "fetch('https://far.example/data')", "text/javascript"),
        ]
        har = json.dumps({"log": {"version": "1.2", "entries": entries}}).encode()
        site = self.read_site(har, "mill.har")
        own = preview_address(site, "found").removeprefix("http://").rstrip("/")
        self.assertIn(f'src="http://h1.{own}/t.js"'.encode(), respond(own, "/", {}).body)
        self.assertEqual(respond(f"h1.{own}", "/t.js", {}).body, f"fetch('http://h1.{own}/data')".encode())
        script = respond(own, "/.unladen/live.js", {}).body.decode()
        self.assertIn(f'"far.example": "http://h1.{own}"', script)
        seen: dict[str, str] = {}
        environ = {"REQUEST_METHOD": "GET", "PATH_INFO": "/t.js", "HTTP_HOST": f"h1.{own}"}
        application(environ, lambda status, headers: seen.update(headers))
        self.assertIn(f"default-src http://{own} http://*.{own} data:", seen["Content-Security-Policy"])
        self.assertEqual(seen["Access-Control-Allow-Origin"], "*")

    def test_the_plan_can_be_looked_at_as_it_is_and_with_and_without_one_change(self) -> None:
        site = self.read_site()
        path = f"/api/sites/{site.pk}"
        self.assertEqual(self.client.get(f"{path}/plan/copies").status_code, 409)
        self.work()
        change = self.get(f"{path}/plan")["changes"][0]
        self.assertFalse(change["on"])
        found = self.get(f"{path}/plan/copies?change={quote(change['id'])}")
        self.assertEqual(found["now"], "")
        page, plan, with_it, without_it = (
            respond(found[name].removeprefix("http://").rstrip("/"), "/index.html", {}).body
            for name in ("found", "plan", "with_it", "without_it")
        )
        address = found["without_it"].encode()
        self.assertNotEqual(with_it.replace(found["with_it"].encode(), address), without_it)
        self.assertEqual(plan.replace(found["plan"].encode(), address), without_it)
        self.assertIn(b"little", page.lower())
        # Where the plan changes, so does what is shown of it.
        self.edit(path, {"do": "switch", "ids": [change["id"]], "on": True, "insist": False})
        again = respond(found["plan"].removeprefix("http://").rstrip("/"), "/index.html", {}).body
        self.assertEqual(again.replace(found["plan"].encode(), found["with_it"].encode()), with_it)
        self.assertEqual(self.client.get(f"{path}/plan/copies?change=nothing").status_code, 404)
        self.client.force_login(self.other)
        self.assertEqual(self.client.get(f"{path}/plan/copies").status_code, 404)


def _entry(url: str, status: int, body: str, media_type: str = "text/html", **fields: str) -> dict[str, object]:
    headers = [{"name": name.replace("_", "-"), "value": value} for name, value in fields.items()]
    content = {"mimeType": media_type, "text": body}
    return {
        "request": {"method": "GET", "url": url},
        "response": {"status": status, "headers": headers, "content": content},
    }
