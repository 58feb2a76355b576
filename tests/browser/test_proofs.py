"""What a check tells while it goes on, and what of it is kept when it is stopped."""

from __future__ import annotations

from tests.browser.cases import BrowserCase
from tests.sites import page, photo
from unladen.check import ChangeResults, Check, Standing, Verdict
from unladen.errors import Cancelled
from unladen.lighten import Order, carry_out, surveyed
from unladen.progress import Progress, Proof, Proven
from unladen.remedies import ImageSettings
from unladen.survey import SurveyInputs
from unladen.weigh.records.conditions import DEVICES, Conditions
from unladen.weigh.session import Session
from unladen.weigh.visits.weighing import weigh_pages

PHONE = DEVICES["phone"]
BUTTON = "<button onclick='m.hidden=!m.hidden'>Menu</button><p id=m hidden>The menu</p>"
NEVER = "".join(f".never-{n * 7919 % 9973} {{ top : {n * n % 997}px }}\n" for n in range(400))
FILES = {
    f"{name}.html": page(f"<!-- a word --><h1>{name}</h1>{BUTTON}", "<link rel=stylesheet href=s.css>")
    for name in ("index", "a", "b")
} | {"s.css": f"h1 {{ color: red }}\n{NEVER}".encode()}


class Told(BrowserCase):
    def setUp(self) -> None:
        super().setUp()
        # Looks are kept for the whole class, so each test has pages of its own.
        word = f"<!-- {self.id()} -->".encode()
        self.survey({name: body + word if name.endswith(".html") else body for name, body in FILES.items()})
        self.proofs: list[Proof] = []
        self.stopped = False

    def survey(self, files: dict[str, bytes]) -> None:
        """A site, and the plan of steady for it."""
        self.site = self.capture(files)
        self.serve(self.site)
        found = weigh_pages(
            Session.of(self.browser, self.site, Progress()), self.site.pages(), [Conditions(PHONE)], layouts=True
        )
        images = ImageSettings(avif=False)  # encodes of these take longest and tell nothing here
        self.plan = surveyed(self.site, SurveyInputs(found), "steady", Progress(), images=images).plan
        self.assertTrue(self.plan.counting())

    def check(self, first: str = "") -> Verdict | None:
        """What comes of a check of the plan, unless it is stopped."""
        progress = Progress(cancelled=lambda: self.stopped, found=self.found)
        session = Session.of(self.browser, self.site, progress)
        check = Check(session, self.site.pages(), [PHONE], first=first, haste=True)
        try:
            return check.run(self.plan, ChangeResults())
        except Cancelled:
            return None

    def found(self, proof: Proof) -> None:
        self.proofs.append(proof)

    def test_the_page_that_somebody_waits_for_comes_first_and_at_rest_before_it_is_used(self) -> None:
        verdict = self.check(first="/b.html")
        assert verdict is not None
        self.assertEqual({proof.page for proof in self.proofs}, {"/index.html", "/a.html", "/b.html"})
        self.assertEqual(
            [(proof.page, proof.proven) for proof in self.proofs[:2]],
            [("/b.html", Proven.AT_REST), ("/b.html", Proven.SAME)],
        )
        self.assertEqual([pair.page for pair in verdict.pairs], ["/index.html", "/a.html", "/b.html"])

    def test_what_was_proven_before_it_was_stopped_is_not_looked_at_again(self) -> None:
        def stop(proof: Proof) -> None:
            self.stopped = proof.proven is Proven.SAME
            self.proofs.append(proof)

        self.found = stop  # type: ignore[method-assign]
        verdict = self.check(first="/b.html")
        self.assertIsNone(verdict)
        self.stopped = False
        self.proofs.clear()
        del self.found
        verdict = self.check(first="/b.html")
        assert verdict is not None
        self.assertTrue(all(pair.passed for pair in verdict.pairs))
        # Of the page that was proven nothing is seen anew, so nobody hears of it at rest.
        self.assertIn(Proof("/b.html", "phone", Proven.SAME), self.proofs)
        self.assertNotIn(Proof("/b.html", "phone", Proven.AT_REST), self.proofs)
        self.assertIn(Proof("/a.html", "phone", Proven.AT_REST), self.proofs)

    def test_what_differs_is_told_before_its_cause_is_known(self) -> None:
        script = (
            "<script>const x=new XMLHttpRequest();x.open('GET','s.css',false);x.send();"
            f"if(x.responseText.length<{len(FILES['s.css'])})document.documentElement.append('Other')</script>"
        )
        head = f"<link rel=stylesheet href=s.css>{script}"
        self.survey({"index.html": page("<h1>x</h1>", head), "s.css": FILES["s.css"]})
        verdict = self.check()
        assert verdict is not None
        self.assertEqual(self.proofs[0].proven, Proven.DIFFERS)
        self.assertIn("moved", self.proofs[0].text)
        self.assertEqual(self.proofs[-1].proven, Proven.SAME)

    def test_a_short_search_sets_aside_together_what_a_longer_one_tells_apart(self) -> None:
        pictures = "".join(f"<img id=i{n} src={n}.jpg width=105 height=70>" for n in range(12))
        touchy = "<p id=p>text</p><script>onload=()=>{if(i7.naturalWidth<300)p.style.marginTop='90px'}</script>"
        files = {f"{n}.jpg": photo(420, 280, seed=n) for n in range(12)}
        self.survey({"index.html": page(pictures + touchy)} | files)
        before = weigh_pages(
            Session.of(self.browser, self.site, Progress()), self.site.pages(), [Conditions(PHONE)], layouts=True
        )

        def carried_out(order: Order) -> ChangeResults:
            result = carry_out(
                Session.of(self.browser, self.site, Progress()), self.plan, before, order=order, glances=[]
            )
            self.assertTrue(all(pair.passed for pair in result.pairs))
            return result.outcomes

        def aside(outcomes: ChangeResults) -> set[str]:
            return {id for id, o in outcomes.by_change.items() if o.standing is Standing.SET_ASIDE}

        hasty = carried_out(Order(haste=True))
        self.assertIn("shrink:/7.jpg", aside(hasty))
        self.assertGreater(len(aside(hasty)), 1)
        self.assertEqual(set(hasty.open), aside(hasty))
        longer = carried_out(Order(hasty, tuple(hasty.open)))
        self.assertEqual((aside(longer), longer.open), ({"shrink:/7.jpg"}, []))
