"""The help: a page for every code, no dead links, a search over all of it, what schools say on the reader's bench."""

from __future__ import annotations

import json
import re
from html import unescape

from scripts.docs import finding_benches
from tests.app.client import AppCase
from tests.core.finding_cases import CASES
from tests.core.hazard_cases import HAZARD_CASES
from tests.core.pace_cases import PACE_CASES
from viva_tick.web.guide import DOCS, TOPICS, example, pages, said, search
from viva_tick.web.guide_texts import SOURCES, STATIONS, WORDS
from viva_tick.web.stations import STATIONS as PLACES


class Guide(AppCase):
    def test_every_code_has_a_page_with_a_bench_that_shows_it(self) -> None:
        codes = {code for code, *_ in (*CASES, *PACE_CASES, *HAZARD_CASES)}
        self.assertLessEqual(codes, set(said()))
        self.assertEqual(
            json.loads((DOCS / "finding-benches.json").read_text()), json.loads(json.dumps(finding_benches()))
        )
        for code in codes:
            shown = example(code)
            assert shown is not None, code
            self.assertEqual(shown[1].code, code)
        for code in ("behave.bound", "wire.floating", "guard.unfed"):
            page = self.client.get(f"/help/finding/{code}?bench=1")
            self.assertEqual(page.status_code, 200)
            self.assertIn(unescape(said()[code][0])[:30], unescape(page.text))
        answer = self.client.post("/help/finding/wire.floating/bench", data={"csrf_token": self.token()})
        self.assertTrue(answer.headers["Location"].endswith("/benches/7/wire"))
        self.assertIn("float", self.client.get("/benches/7/wire").text)
        self.assertEqual(self.client.get("/help/finding/no.such").status_code, 404)

    def test_every_finding_says_what_it_rests_on(self) -> None:
        first = {code: next(text for pattern, text in SOURCES if re.match(pattern, code)) for code in said()}
        # None stands behind another that takes all of its codes.
        self.assertEqual(set(first.values()), {text for _, text in SOURCES})
        self.assertIn("IEC 60335-1", self.client.get("/help/finding/wire.thin-wire").text)
        self.assertIn("Miller 1968", self.client.get("/help/finding/clean.lag").text)

    def test_no_link_is_dead(self) -> None:
        seen: set[str] = set()
        left = [
            "/help/station/clean?bench=1",
            "/help/schools/loops?bench=1",
            "/help/words",
            "/help",
            "/sums",
            "/drills",
            "/read",
            "/boards",
        ]
        left += [f"/help/station/{ident}" for ident in STATIONS]
        while left:
            url = left.pop()
            where = url.partition("#")[0]
            if where in seen:
                continue
            seen.add(where)
            answer = self.client.get(where)
            self.assertLess(answer.status_code, 400, url)
            # Findings are many, and all of one make: some are enough.
            if "html" not in answer.mimetype or where.startswith(("/benches/", "/help/finding/", "/boards/")):
                continue
            for link in re.findall(r'href="(/[^"]*)"', answer.text):
                link = unescape(link)
                if link.startswith(("/help", "/sums", "/read", "/drills", "/boards", "/gallery")) and (
                    not link.startswith("/help/finding/") or len([one for one in seen if "finding" in one]) < 25
                ):
                    left.append(link)
        self.assertGreater(len(seen), 60)

    def test_every_station_and_topic_has_its_page(self) -> None:
        self.assertEqual(set(STATIONS), set(PLACES))
        for ident, one in STATIONS.items():
            html = self.client.get(f"/help/station/{ident}?piece=1&bench=1").get_json()["html"]
            self.assertIn(one.question, unescape(html))
            self.assertTrue(set(one.topics) <= set(TOPICS))
        self.assertIn("On this bench now", self.client.get("/help/station/clean?piece=1&bench=1").get_json()["html"])
        for topic, said_here in (
            ("methods", "are advised"),
            ("loops", "a pass of"),
            ("pulls", "kΩ"),
            ("watchdogs", "is the step to take"),
        ):
            page = self.client.get(f"/help/schools/{topic}?bench=1").text
            self.assertIn(said_here, page, topic)
            self.assertIn("<small>now</small>", page, topic)
            self.assertNotIn("on your bench", self.client.get(f"/help/schools/{topic}?bench=99").text)
        self.assertEqual(self.client.get("/help/station/nowhere").status_code, 404)

    def test_the_search_finds_what_is_asked(self) -> None:
        for text, first in (
            ("hysteresis", "hysteresis"),
            ("pin floats", "wire.floating"),
            ("resistor lamp", "Lamp and its resistor"),
            ("watchdog fed", "watchdog"),
        ):
            titles = [page.title for page, _ in search(text)[:4]]
            self.assertTrue(any(first in title for title in titles), (text, titles))
        self.assertEqual(search("zebra crossing"), [])
        self.assertEqual(search(""), [])
        self.assertEqual({page.kind for page in pages()}, {"station", "finding", "schools", "word", "sum"})
        self.assertIn("Nothing says", self.client.get("/help/search?q=zebra").text)
        self.assertIn("wire.floating", self.client.get("/help/search?q=floating&piece=1").get_json()["html"])
        self.assertIn(next(iter(WORDS)), self.client.get("/help/words").text)
