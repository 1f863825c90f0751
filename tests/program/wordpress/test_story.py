"""The whole story on a real WordPress: made, off, enabled, served, added to, switched off, removed, undone."""

import json
import re
import subprocess
import sys
import urllib.error
import urllib.parse
import urllib.request
from http.cookiejar import CookieJar

from ...support import BRIEFS, WORDPRESS, Case, WordPressCase, need_wordpress, sprout


class Story(WordPressCase):
    def is_on(self, module: str) -> bool:
        return module in self.in_host("echo implode( ' ', (array) get_option( 'active_plugins' ) );")

    def test_from_brief_to_served_page_and_back(self):
        before = self.files()
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml"))
        failing = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"), 1)
        self.assertEqual(self.codes(failing, "tide-board"), ["enabled.off"])
        planned = self.assert_ok(self.sprout("enable", "tide_board", "--preview"))
        self.assertIn("would activate tide-board in the host's database", planned.out)
        self.assertFalse(self.is_on("tide-board"))
        self.assert_ok(self.sprout("enable", "tide_board"))
        self.assertTrue(self.is_on("tide-board"))
        passing = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(passing, "tide-board").values()), {"pass"})
        self.assertEqual(passing.json["summary"], {**passing.json["summary"], "served": 2, "findings": 0})
        self.assert_ok(self.sprout("undo"))
        self.assertFalse(self.is_on("tide-board"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.files(), before)
        self.assert_ok(self.sprout("check"))

    def test_its_names_are_found_and_the_next_steps_spell_it_as_the_host_does(self):
        made = self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "--format", "json")).json
        self.assertEqual(made["module"], "tide-board")
        self.assertEqual(made["next"][0], "swift-sprout enable tide-board")
        other = self.site / self.modules / "notice-lamp/notice-lamp.php"
        other.parent.mkdir()
        other.write_text("<?php\n// Plugin Name: Notice lamp\nclass_exists( 'BrindleQuay\\\\TideBoard\\\\Module' );\n")
        shown = self.assert_ok(self.sprout("show", "names", "tide_board", "--format", "json")).json
        places = {row["spelling"]: row["stands in"] for row in shown["rows"] if row["of"] in ("module", "")}
        self.assertIn("src/Access.php:24", places["kebab"])
        joined = next(row for row in shown["rows"] if row["name"] == "TideBoard")
        self.assertNotEqual(joined["stands in"], "–")
        self.assertFalse([row for row in shown["rows"] if "wp-includes" in row["stands in"]])

    def test_watching_wakes_when_code_is_saved(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        words = ["check", "tide_board", "--static", "--watch", "--host", str(self.site)]
        with subprocess.Popen(
            [sys.executable, "-m", "swift_sprout", *words], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True
        ) as watching:
            assert watching.stdout is not None
            try:
                line = watching.stdout.readline()
                while "no findings" not in line:
                    line = watching.stdout.readline()
                (self.site / self.modules / "tide-board/src/Pages.php").write_text("<?php\nclass {\n")
                while "was saved" not in line:
                    line = watching.stdout.readline()
                self.assertIn("tide-board/src/Pages.php was saved", line)
            finally:
                watching.terminate()

    def test_the_brief_with_every_part_is_made_enabled_checked_and_tested(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml"))
        self.assert_ok(self.sprout("enable", "berth_register"))
        checked = self.assert_ok(self.sprout("check", "--format", "json"))
        self.assertEqual(set(self.ladder(checked, "berth-register").values()), {"pass"})
        self.assertEqual(checked.json["summary"]["findings"], 0, checked.out)
        first = self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        self.assertIn("new rows: 3 Berth, 2 Booking", first.out)
        again = self.assert_ok(self.sprout("settle", "berth_register", "--samples"))
        self.assertIn("new rows: 0 Berth, 0 Booking", again.out)
        self.assertEqual(self.in_host("echo count( BrindleQuay\\BerthRegister\\Records\\Berth::all() );"), "3")
        rights = self.assert_ok(self.sprout("show", "rights", "berth_register", "--format", "json")).json
        rows = {(row["who"], row["record"]): row for row in rights["rows"] if row["who"]}
        self.assertEqual(rows["Harbour clerks", "Berth"]["read"], "yes")
        self.assertEqual(rows["Harbour clerks", "Berth"]["create"], "–")
        asked = ("show", "order", "berth_register", "--format", "json")
        self.assertEqual(self.sprout(*asked, "--static").json["rows"], [])
        for what in ("routes", "order", "placements", "files"):
            shown = self.assert_ok(self.sprout("show", what, "berth_register", "--format", "json")).json
            self.assertGreaterEqual(len(shown["rows"]), 3, what)
        tests = self.php(f"{self.modules}/berth-register/tests/run.php")
        self.assertEqual(tests.returncode, 0, tests.stdout + tests.stderr)
        self.assertIn("9 tests, 0 failed", tests.stdout)
        console = f"{self.modules}/berth-register/console.php"
        self.assertEqual(self.php(console, "list_berths", "--quay=north").stdout, "N1\nN2\n")
        wrong = self.php(console, "list_berths", "--quay=east", "--colour=red")
        self.assertEqual(wrong.returncode, 2)
        self.assertIn("quay: This does not fit.", wrong.stderr)
        self.assertIn("--colour: there is no such parameter", wrong.stderr)

    def test_why_names_the_role_and_a_holder_of_it_sees_the_page(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        asked = self.assert_ok(self.sprout("why", "berth_register", "Who comes when", "--format", "json"), 1).json
        self.assertFalse(asked["seen"])
        self.assertIn("Harbour clerks or Harbour master", asked["commands"][0])
        clerk = "berth_register_harbour_clerks"
        seen = self.assert_ok(self.sprout("why", "berth_register", "/bookings", "--as", clerk)).out
        self.assertIn("status 200, titled 'Bookings'", seen)
        self.assert_ok(self.sprout("why", "berth_register", "/bookings", "--as", "subscriber"), 1)
        self.assertIn("Nearest", self.assert_ok(self.sprout("why", "berth_register", "--as", "harbor"), 2).err)

    def test_a_part_is_added_to_files_that_people_edited(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        service = f"{self.modules}/berth-register/src/Services/BerthFinder.php"
        self.change(
            service, "	) {}\n", "	) {}\n\n	public function free(): array {\n		return [];\n	}\n"
        )
        words = ("add", "record", "Anchorage: name text(40), depth_m decimal(4,1)", "--to", "berth_register")
        self.assert_ok(self.sprout(*words, "-q"))
        self.assertIn("public function free", (self.site / service).read_text())
        failing = self.assert_ok(self.sprout("check", "berth_register", "--format", "json"), 1)
        self.assertIn("installed.table-absent", self.codes(failing, "berth-register"))
        self.assert_ok(self.sprout("settle", "berth_register"))
        self.assert_ok(self.sprout("check"))
        self.assert_ok(self.sprout("add", "page", "/anchorages: Anchorages, shows Anchorage", "--to", "berth_register"))
        stale = self.assert_ok(self.sprout("check", "berth_register", "--format", "json"), 1)
        self.assertEqual(self.codes(stale, "berth-register")[0], "routed.rules-stale")
        mended = self.assert_ok(self.sprout("check", "--mend", "--format", "json")).json
        self.assertEqual(mended["mended"], ["routed.rules-stale"])

    def test_a_changed_brief_leads_to_new_files_and_a_new_column(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        self.assert_ok(self.sprout("enable", "tide_board", "-q"))
        folder = f"{self.modules}/tide-board"
        self.change(
            f"{folder}/sprout.toml", '"note: long text, optional"', '"note: long text, optional", "spring: yes/no"'
        )
        self.change(
            f"{folder}/src/Records/Tide.php", "final class Tide", "/* The harbour's own words. */\nfinal class Tide"
        )
        self.assert_ok(self.sprout("refresh", "tide_board", "--preview"))
        self.assert_ok(self.sprout("refresh", "tide_board"))
        made = (self.site / folder / "src/Records/Tide.php").read_text()
        self.assertIn("The harbour's own words", made)
        self.assertIn("'spring' => [", made)
        failing = self.assert_ok(self.sprout("check", "tide_board", "--format", "json"), 1)
        self.assertEqual(self.codes(failing, "tide-board"), ["installed.column-absent"])
        self.assert_ok(self.sprout("settle"))
        self.assert_ok(self.sprout("check"))
        self.assertIn("nothing was changed", self.assert_ok(self.sprout("refresh", "tide_board")).out)

    def cut_off(self, condition: str) -> None:
        """Let the host look for its database where it is not, for requests of pages for which the condition holds."""
        configuration = self.site / "wp-config.php"
        wrong = f"if ( PHP_SAPI === 'cli-server' && {condition} ) {{ define( 'DB_HOST', 'localhost:/no/such' ); }}"
        configuration.write_text(configuration.read_text().replace("<?php\n", f"<?php\n{wrong}\n", 1))

    def test_a_database_that_refuses_one_connection_is_no_fault_of_a_module(self):
        self.cut_off("! file_exists( __DIR__ . '/asked' ) && touch( __DIR__ . '/asked' )")
        self.assert_ok(self.sprout("check", "ferries"))
        self.assertTrue((self.site / "asked").exists())

    def test_a_page_that_never_reaches_its_database_says_what_the_database_said(self):
        self.cut_off("str_starts_with( $_SERVER['REQUEST_URI'], '/ferries/' )")
        failing = self.assert_ok(self.sprout("check", "ferries"), 1)
        self.assertRegex(
            failing.out, r"/ferries/ answers 500: Error establishing [^(]+ \(No such file or\s+directory\)"
        )

    def test_a_module_made_by_hand_is_checked_and_switched_but_no_part_is_added(self):
        before = self.files()
        refused = self.assert_ok(self.sprout("add", "page", "/quay: The quay", "--to", "ferries"), 4)
        self.assertIn("made-by-hand", refused.err)
        self.assertEqual(self.files(), before)
        self.assert_ok(self.sprout("disable", "ferries"))
        ran = self.assert_ok(self.sprout("check", "ferries", "--mend", "--format", "json"))
        self.assertEqual(ran.json["mended"], ["enabled.off"])
        self.assertEqual(self.files(), before)

    def test_a_module_that_is_one_file_is_not_taken_for_the_folder_of_all(self):
        self.put(f"{self.modules}/bell.php", "<?php\n/* Plugin Name: Bell\nVersion: 1.0 */\n")
        before = self.files()
        self.assert_ok(self.sprout("enable", "bell"))
        for words in (
            ("remove", "bell"),
            ("remove", "bell", "--data", "drop"),
            ("pack", "bell", "--to", self.folder / "bell.zip"),
            ("adopt", "bell"),
            ("refresh", "bell"),
            ("add", "page", "/bell: Bell", "--to", "bell"),
        ):
            refused = self.assert_ok(self.sprout(*words), 4)
            self.assertIn("[one-file]", refused.err, words)
            self.assertEqual(self.files(), before)
        self.assertFalse((self.folder / "bell.zip").exists())
        self.assert_ok(self.sprout("check", "bell"))
        self.assert_ok(self.sprout("remove", "quayside"), 4)
        self.assertEqual(self.files(), before)

    def test_dropping_the_data_of_a_module_leaves_those_of_one_that_is_named_alike(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        shorter = self.write(
            "berth.toml", '[module]\nname = "Berth"\n[[record]]\nname = "Buoy"\nfields = ["name: text"]\n'
        )
        self.assert_ok(self.sprout("new", "--brief", shorter, "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        self.assert_ok(self.sprout("enable", "berth", "-q"))
        self.assert_ok(self.sprout("remove", "berth", "--data", "drop"))
        self.assertEqual(self.in_host("echo (int) (bool) get_role( 'berth_register_harbour_clerks' );"), "1")
        self.assert_ok(self.sprout("check"))

    def test_disabling_keeps_the_rows_and_removing_with_them_writes_them_down(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        self.assert_ok(self.sprout("settle", "berth_register", "--samples", "-q"))
        self.assert_ok(self.sprout("disable", "berth_register"))
        ferries = self.in_host("echo implode( ' ', array_keys( (array) get_option( 'rewrite_rules' ) ) );")
        self.assertNotIn("berth-register", ferries)
        kept = self.assert_ok(self.sprout("remove", "berth_register"), 4)
        self.assertIn("bq_berth_register_berth", kept.err)
        self.assert_ok(self.sprout("remove", "berth_register", "--data", "drop"))
        self.assertFalse((self.site / self.modules / "berth-register").exists())
        self.assertEqual(self.in_host("echo (int) (bool) get_role( 'berth_register_harbour_clerks' );"), "0")
        rows = [path for path in self.kept_rows() if "Gannet" in path.read_text()]
        self.assertEqual(len(rows), 1)
        self.assert_ok(self.sprout("check"))

    def test_the_module_of_a_removed_brief_comes_back_with_undo(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        self.assert_ok(self.sprout("enable", "tide_board", "-q"))
        before = self.files()
        self.assert_ok(self.sprout("remove", "tide_board", "--data", "keep"))
        self.assertFalse(self.is_on("tide-board"))
        self.assert_ok(self.sprout("undo"))
        self.assertEqual(self.files(), before)
        self.assertTrue(self.is_on("tide-board"))
        self.assert_ok(self.sprout("check"))

    def test_a_module_that_another_one_needs_is_not_switched_off(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        self.assert_ok(self.sprout("disable", "harbour_office"))
        refused = self.assert_ok(self.sprout("enable", "tide_board"), 4)
        self.assertIn("harbour-office, which is not switched on", refused.err)
        self.assert_ok(self.sprout("enable", "harbour_office"))
        self.assert_ok(self.sprout("enable", "tide_board"))
        refused = self.assert_ok(self.sprout("disable", "harbour_office"), 4)
        self.assertIn("tide-board needs harbour-office", refused.err)

    def test_the_sandbox_enables_what_is_off_and_the_host_stays_as_it_is(self):
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "tide_board.toml", "-q"))
        before = self.files()
        ran = self.assert_ok(self.sprout("check", "--sandbox", "--format", "json"), 1)
        real, sandbox = ran.json["setups"]
        states = [
            {one["module"]: {step["rung"]: step["state"] for step in one["ladder"]} for one in setup["modules"]}
            for setup in (real, sandbox)
        ]
        self.assertEqual(states[0]["tide-board"]["enabled"], "fail")
        self.assertEqual(set(states[1]["tide-board"].values()), {"pass"})
        self.assertEqual(self.files(), before)
        self.assertFalse(self.is_on("tide-board"))


class Served(WordPressCase):
    """What people meet in a browser, over loopback."""

    def setUp(self) -> None:
        super().setUp()
        self.assert_ok(self.sprout("new", "--brief", BRIEFS / "berth_register.toml", "-q"))
        self.assert_ok(self.sprout("enable", "berth_register", "-q"))
        self.assert_ok(self.sprout("settle", "berth_register", "--samples", "-q"))
        from swift_sprout.actions.hosting import HostChoice, open_host
        from swift_sprout.actions.serving import serving

        served = serving(open_host(HostChoice(str(self.site))), [], None)
        self.base = f"http://127.0.0.1:{served.__enter__().port}"
        self.addCleanup(self.stop, served)
        self.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(CookieJar()))

    def stop(self, served) -> None:
        from swift_sprout.hosts.kits.wordpress.database import own_server

        served.__exit__(None, None, None)
        server = own_server(self.site)
        assert server is not None
        server.stop()

    def get(self, path: str) -> str:
        with self.browser.open(self.base + path, timeout=30) as answer:
            return str(answer.read(), "utf-8")

    def post(self, path: str, **values: str) -> str:
        form = urllib.parse.urlencode(values).encode()
        with self.browser.open(self.base + path, form, timeout=30) as answer:
            return str(answer.read(), "utf-8")

    def sign_in(self) -> None:
        self.get("/wp-login.php")
        password = (self.site / "admin-password.txt").read_text().strip()
        self.post("/wp-login.php", log="harbour", pwd=password, testcookie="1")

    def test_visitors_see_pages_and_block_and_are_sent_to_sign_in(self):
        listed = self.get("/berth-register/berths/")
        self.assertIn("North quay", listed)
        self.assertTrue(listed.rstrip().endswith("</html>"))
        self.assertIn("berths.css", listed)
        self.assertIn("12.5", self.get("/berth-register/berths/1/"))
        front = self.get("/")
        self.assertIn("Berths at a glance", front)
        self.assertIn("All berths", front)
        self.assertNotIn("Who comes when", front)
        self.assertNotIn("Sample Page", front)
        self.assertIn("wp-login", self.get("/berth-register/bookings/")[:4000])
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.get("/berth-register/berths/99/")
        self.assertEqual(caught.exception.code, 404)
        items = json.loads(self.get("/wp-json/berth-register/v1/api/berths"))["items"]
        self.assertEqual([one["number"] for one in items], ["N1", "N2", "S1"])
        for hidden in ("/database/mariadb.cnf", "/admin-password.txt"):
            with self.assertRaises(urllib.error.HTTPError):
                self.get(hidden)

    def test_the_entries_stand_behind_the_pages_of_the_site(self):
        folder = self.site / "wp-content/mu-plugins"
        folder.mkdir(exist_ok=True)
        page = "['post_type' => 'page', 'post_title' => 'Tide times', 'post_status' => 'publish']"
        (folder / "tides.php").write_text(
            f"<?php add_action('init', fn() => get_page_by_path('tide-times') || wp_insert_post({page}));\n"
        )
        front = self.get("/")
        head = front[front.index("Tide times") :]
        self.assertEqual(front.count(">All berths<"), 1)
        self.assertLess(head.index(">All berths<"), head.index("</nav>"))

    def test_a_booking_is_made_on_the_site_and_a_berth_in_the_administration(self):
        self.sign_in()
        form = self.get("/berth-register/bookings/new/")
        nonce = re.search(r'name="_wpnonce" value="(\w+)"', form)
        assert nonce
        given = {"berth": "1", "vessel": "Tern", "arrives": "2026-12-01", "nights": "x", "state": "asked"}
        sent = {"_wpnonce": nonce.group(1), **{f"record[{name}]": value for name, value in given.items()}}
        wrong = self.post("/berth-register/bookings/new/", **sent)
        self.assertIn("This does not fit.", wrong)
        sent["record[nights]"] = "3"
        self.assertIn("Tern", self.post("/berth-register/bookings/new/", **sent))
        screen = "/wp-admin/admin.php?page=berth-register&do=form"
        nonce = re.search(r'name="_wpnonce" value="(\w+)"', self.get(screen))
        assert nonce
        berth = {"record[number]": "M1", "record[quay]": "mole", "record[length_m]": "30.0"}
        self.assertIn("M1", self.post(screen, _wpnonce=nonce.group(1), **berth))
        twice = self.post(screen, _wpnonce=nonce.group(1), **berth)
        self.assertIn("This is there already.", twice)
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.post(screen, _wpnonce="forged", **berth)
        self.assertEqual(caught.exception.code, 403)


class Demo(Case):
    def test_the_demo_tells_the_whole_story(self):
        need_wordpress()
        folder = self.folder / "quay"
        told = self.assert_ok(sprout("demo", folder, "--kit", "wordpress", "--runtime", WORDPRESS))
        self.assertIn("The host stays for exploring", told.out)
        self.assertNotIn("That should have ended", told.out)
