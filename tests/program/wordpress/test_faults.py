"""The faults of this host: see tests/faults.py."""

import subprocess
from pathlib import Path

from swift_sprout.hosts.kits.wordpress.database import own_server
from trials.hosts import trial

from ... import faults


class OnTheHost(faults.Faults):
    kit = "wordpress"
    served = 3  # the harbour office has no page of its own here
    at_least = 95
    elsewhere = {"enabled.refused": "folded under compatible and described, which have faults"}

    def test_a_check_leaves_the_database_as_it_is(self):
        """What modules write while they are only asked is taken back, and nothing of it is kept."""
        site = self.copy()
        main = site / "wp-content/plugins/pilotage/pilotage.php"
        main.write_text(
            main.read_text()
            + "\nadd_action( 'init', static function () {\n\tglobal $wpdb;\n"
            + "\tmysqli_query( $wpdb->dbh, 'ROLLBACK' ); // as the database does by itself after a deadlock\n"
            + "\tupdate_option( 'pilotage_seen', uniqid() );\n"
            + "\t$wpdb->query( 'START TRANSACTION' );\n\t$wpdb->query( 'COMMIT' );\n"
            + '\t$wpdb->query( "CREATE TABLE {$wpdb->prefix}pilotage_seen (id int)" );\n} );\n'
        )
        trial(self.kit).run_sql(site, "delete from bq_options where option_name like '\\_%transient%'")
        before = self.everything(site)
        told = self.assert_ok(self.run_on(site, "check", "--format", "json"), 1).json
        findings = [one for module in told["setups"][0]["modules"] for one in module["findings"]]
        self.assertEqual([one["code"] for one in findings if not one["follows_from"]], ["installed.table-absent"])
        self.assertEqual(self.everything(site), before)
        trial(self.kit).stop(site)

    def test_why_knows_what_a_module_by_hand_shows_beside_pages(self):
        site = self.copy()
        for what, person, status, told in (
            ("pilotage", "editor", 0, "it is for those who hold read_pilots"),
            ("pilotage-calls", "visitor", 1, "sign in as somebody with the role"),
            ("pilots_on_duty", "visitor", 1, "a page that people can read has it"),
            ("pilotage/pilots-on-duty", "visitor", 1, "write the block into a page"),
        ):
            with self.subTest(what):
                ran = self.assert_ok(self.run_on(site, "why", "pilotage", what, "--as", person), status)
                self.assertIn(told, ran.out)
        text = "insert into bq_posts (post_status, post_type, post_name, post_title, post_content, post_excerpt, "
        text += (
            "to_ping, pinged, post_content_filtered) values ('publish', 'page', 'duty', 'Duty', '[pilots_on_duty]', "
        )
        trial(self.kit).run_sql(site, text + "'', '', '', '')")
        self.assertIn("/duty/", self.assert_ok(self.run_on(site, "why", "pilotage", "pilots_on_duty")).out)
        trial(self.kit).stop(site)

    def everything(self, site: Path) -> str:
        server = own_server(site)
        assert server is not None
        server.start(30)
        code = (
            "$c = mysqli_connect('localhost', 'root', '', 'brindle_quay', 0, $argv[1]);"
            "foreach ($c->query('show tables')->fetch_all() as $t) {"
            ' echo $t[0], json_encode($c->query("select * from `$t[0]`")->fetch_all()), PHP_EOL; }'
        )
        told = subprocess.run(["php", "-r", code, str(server.socket)], capture_output=True, text=True, check=True)
        return told.stdout
