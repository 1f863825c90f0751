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
            + "\tupdate_option( 'pilotage_seen', uniqid() );\n"
            + '\t$wpdb->query( "CREATE TABLE {$wpdb->prefix}pilotage_seen (id int)" );\n} );\n'
        )
        trial(self.kit).run_sql(site, "delete from bq_options where option_name like '\\_%transient%'")
        before = self.everything(site)
        told = self.assert_ok(self.run_on(site, "check", "--format", "json"), 1).json
        codes = [one["code"] for module in told["setups"][0]["modules"] for one in module["findings"]]
        self.assertEqual(codes, ["installed.table-absent"])
        self.assertEqual(self.everything(site), before)
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
