"""Work on two browsers side by side, without a browser.

Order, failure, cancel; and what is pieced together of a visit.
"""

from __future__ import annotations

import threading
import unittest
from collections.abc import Iterator
from contextlib import contextmanager
from types import SimpleNamespace
from typing import Any

from tests.sites import FolderCase, page
from unladen.capture import Capture
from unladen.capture.recorded import Response, capture_of_responses, exchange_of
from unladen.errors import BadInput, Cancelled
from unladen.progress import Progress, Proof, Proven, Relay, time_left
from unladen.replay import Served
from unladen.weigh.chromium.recorder import Seen, _answered, _fields, _scripts_of
from unladen.weigh.records.model import Request
from unladen.weigh.session import Session
from unladen.weigh.visits.joining import Places, join, name_scripts
from unladen.weigh.visits.lanes import in_lanes
from unladen.weigh.visits.remote import Batch

HOST = "https://site.example/"


def lane(name: str) -> Any:
    """As much of a browser as lanes need."""
    replay = SimpleNamespace(capture=None)

    @contextmanager
    def serving(capture: Capture) -> Iterator[None]:
        replay.capture = capture
        yield

    return SimpleNamespace(
        name=name,
        replay=replay,
        serving=serving,
        twin=lambda: lane("second"),
        begin=lambda: None,
        abort=lambda: None,
    )


class Lanes(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.site = self.capture({"index.html": page("")})

    def run_lanes(self, jobs: list[int], one: Any, progress: Progress | None = None, **more: Any) -> list[Any]:
        session = Session.of(lane("first"), self.site, progress or Progress())
        return in_lanes(session, Batch("weigh", jobs, one, str), serves=True, **more)

    def test_each_outcome_is_told_once_as_it_comes_by_the_thread_of_the_caller(self) -> None:
        told: list[tuple[int, int]] = []
        self.run_lanes(
            list(range(9)), lambda _, job: job, each=lambda found: told.append((found, threading.get_ident()))
        )
        self.assertEqual(sorted(told), [(n, threading.get_ident()) for n in range(9)])

    def test_outcomes_come_in_the_order_of_the_jobs_from_both_lanes(self) -> None:
        both = threading.Barrier(2, timeout=5)
        names: set[str] = set()

        def one(browser: Any, job: int) -> int:
            names.add(browser.name)
            self.assertIs(browser.replay.capture, self.site)
            if job < 2:
                both.wait()  # only two lanes at once get past this
            return job * 10

        self.assertEqual(self.run_lanes(list(range(9)), one), [n * 10 for n in range(9)])
        self.assertEqual(names, {"first", "second"})

    def test_a_single_job_or_little_work_needs_no_second_browser(self) -> None:
        names: set[str] = set()
        for jobs, alone in (([1], False), ([1, 2, 3], True)):
            self.run_lanes(jobs, lambda browser, job: names.add(browser.name), alone=alone)
        self.assertEqual((names, self.run_lanes([], None)), ({"first"}, []))

    def test_a_failure_stops_both_and_is_raised(self) -> None:
        done: list[int] = []

        def one(browser: Any, job: int) -> None:
            if job == 3:
                raise BadInput("three", "does not work")
            done.append(job)
            threading.Event().wait(0.05)

        with self.assertRaisesRegex(BadInput, "three"):
            self.run_lanes(list(range(200)), one)
        self.assertLess(len(done), 100)

    def test_cancel_is_heard_while_lanes_work(self) -> None:
        stop = threading.Event()
        threading.Timer(0.2, stop.set).start()
        with self.assertRaises(Cancelled):
            self.run_lanes(
                list(range(500)), lambda browser, job: threading.Event().wait(0.05), Progress(cancelled=stop.is_set)
            )

    def test_progress_is_told_from_the_callers_own_thread(self) -> None:
        told: list[tuple[str, int, int]] = []
        threads: set[int] = set()

        def report(stage: str, done: int, total: int, note: str) -> None:
            told.append((stage, done, total))
            threads.add(threading.get_ident())

        self.run_lanes([1, 2, 3], lambda browser, job: job, Progress(report))
        self.assertEqual((told[-1], threads), (("weigh", 3, 3), {threading.get_ident()}))


class Recorded(unittest.TestCase):
    STACK = {
        "callFrames": [{"url": "https://a.example/lib.js"}, {"url": ""}, {"url": "https://a.example/app.js"}],
        "parent": {"callFrames": [{"url": "https://tags.example/t.js"}]},
    }

    def test_a_call_stack_leads_through_what_was_called_later(self) -> None:
        urls = list(_scripts_of(self.STACK))
        self.assertEqual([url.rsplit("/", 1)[-1] for url in urls], ["lib.js", "app.js", "t.js"])
        self.assertEqual(list(_scripts_of(None)), [])

    def test_fields_of_http2_lose_their_pseudo_fields(self) -> None:
        self.assertEqual(_fields({":status": "200", "Content-Type": "text/css"}), [("content-type", "text/css")])

    def test_what_the_network_said_is_kept_before_what_the_page_was_told(self) -> None:
        found = Seen(HOST, "Script", "", "", "parser", 0.0, response_headers=[("etag", "raw")])
        answer = {"status": 200, "mimeType": "text/javascript", "protocol": "h2", "headers": {"etag": "seen"}}
        _answered(found, answer)
        self.assertEqual((found.status, found.protocol, found.response_headers), (200, "h2", [("etag", "raw")]))


class Causes(FolderCase):
    def site(self, script: bytes, body: str = "") -> Capture:
        return self.capture({"index.html": page(body), "a.js": script, "b.js": b"let b;"})

    def cause(self, capture: Capture, url: str) -> str:
        requests = [
            Request(HOST + "index.html", "documents", 200),
            Request(HOST + "b.js", "scripts", 200, started=1),
            Request(HOST + "a.js", "scripts", 200, started=2),
            Request(url, "images", 200, started=3, initiator=HOST + "index.html", initiator_type="parser"),
        ]
        name_scripts(capture, requests)
        return requests[-1].initiator.removeprefix(HOST)

    def test_the_script_that_names_an_image_is_its_cause(self) -> None:
        count = "https://count.example/dot.gif?visit=1"
        self.assertEqual(self.cause(self.site(b"new Image().src='//count.example/dot.gif?'"), count), "a.js")
        # The file's name alone is not enough for another host's image.
        self.assertEqual(self.cause(self.site(b"show('dot.gif')"), count), "index.html")
        self.assertEqual(self.cause(self.site(b"show('wheel.png')"), HOST + "img/wheel.png"), "a.js")

    def test_what_the_page_names_itself_stays_the_pages(self) -> None:
        capture = self.site(b"show('wheel.png')", "<img src=img/wheel.png>")
        self.assertEqual(self.cause(capture, HOST + "img/wheel.png"), "index.html")

    def test_line_and_column_become_a_share_of_the_text(self) -> None:
        place = Places(self.capture({"index.html": b"<p>\n" + b"x" * 96}))
        url = HOST + "index.html"
        self.assertEqual([place(url, *spot) for spot in ((0, 0), (1, 0), (1, 46), (99, 0))], [0, 0.04, 0.5, 1])
        self.assertEqual(place(HOST + "gone.html", 3, 3), 0)


class Joining(unittest.TestCase):
    def test_a_copy_that_the_server_confirmed_costs_question_and_answer(self) -> None:
        seen = Seen(HOST + "a.css", "Stylesheet", "", "", "parser", 1.0, 1.2, 200, "text/css", cached=True)
        (request,) = join([seen], [Served(HOST + "a.css", "GET", 304, 0, "h2", 0.0)], set())
        self.assertEqual((request.status, request.cached, request.transferred), (304, False, 250))

    def test_an_answer_that_no_server_gave_came_from_memory(self) -> None:
        seen = Seen(HOST + "a.css", "Stylesheet", "", "", "parser", 1.0, 1.2, 200, "text/css")
        (request,) = join([seen], [], set())
        self.assertEqual((request.cached, request.transferred), (True, 0))

    def test_times_count_from_the_first_request_of_the_load(self) -> None:
        first = Seen(HOST, "Document", "", "", "other", 10.0, 10.5, 200)
        late = Seen(HOST + "a.jpg", "Image", "", "", "parser", 12.0, 12.25, 200, responded=12.5)
        (request,) = join([late], [Served(HOST + "a.jpg", "GET", 200, 9, "h2", 0.0)], set(), earlier=[first])
        # The page may hear of an answer later than it was there.
        self.assertEqual((request.started, request.responded, request.ended), (2000, 2250, 2250))


class Responses(FolderCase):
    def test_of_several_answers_the_good_one_and_the_get_count(self) -> None:
        html = (("content-type", "text/html"),)
        answers = [
            Response(HOST, 200, html, page("home")),
            Response(HOST + "a", 500, (), b"oh"),
            Response(HOST + "a", 200, (), b"good"),
            Response(HOST + "b", 200, (), b"posted", method="POST"),
            Response(HOST + "b", 200, (), b"got"),
            Response(HOST + "b", 200, (), b"later"),
        ]
        capture = capture_of_responses("t", answers, self.store, [])
        bodies = {e.url.removeprefix(HOST): capture.body(e) for e in capture}
        self.assertEqual((bodies["a"], bodies["b"]), (b"good", b"got"))

    def test_addresses_become_paths_that_a_folder_can_hold(self) -> None:
        for url, path in (
            (HOST, "index.html"),
            (HOST + "shop/", "shop/index.html"),
            (HOST + "a%20b.css?v=1", "a b.css"),
        ):
            self.assertEqual(exchange_of(Response(url, 200, (), b"x"), self.store, HOST).path, path)
        far = exchange_of(Response("https://cdn.example/x.js", 200, (), b"x"), self.store, HOST)
        self.assertEqual((far.path, far.media_type), ("cdn.example/x.js", "text/javascript"))


class HowLong(unittest.TestCase):
    def test_the_rest_takes_as_long_as_what_was_done(self) -> None:
        self.assertEqual([time_left(30, done, 4) for done in (0, 1, 3, 4)], [None, 90, 10, 0])

    def test_what_other_threads_find_is_told_in_the_one_that_asks(self) -> None:
        told: list[Proof] = []
        relay = Relay(Progress(found=told.append))
        proof = Proof("/index.html", "phone", Proven.SAME)
        thread = threading.Thread(target=relay.there.found, args=[proof])
        thread.start()
        thread.join()
        self.assertEqual(told, [])
        relay.pass_on()
        relay.pass_on()
        self.assertEqual(told, [proof])
