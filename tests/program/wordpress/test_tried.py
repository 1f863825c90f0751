"""What is tried of modules on the running host: that it finds what is wrong, and that nothing of it stays."""

import socket

from ...support import StyleCase, need_wordpress

PLACE = "wp-content/plugins/berth-booking"
BOOKINGS = f"{PLACE}/includes/class-bb-bookings.php"
INSTALL = f"{PLACE}/includes/class-bb-install.php"
PRIVACY = f"{PLACE}/includes/class-bb-privacy.php"
CREATED = "\t\tdo_action( 'bb_booking_created', $wpdb->insert_id, $data );"
SEED = "\t\tBB_Cron::schedule();"


class Tried(StyleCase):
    kit = "wordpress"
    style = "bollard"
    without_runtime = ("undo",)

    @classmethod
    def setUpClass(cls) -> None:
        need_wordpress()
        super().setUpClass()

    def kept(self) -> dict[str, bytes]:
        """Return the files of the site, those of its database and its log left out."""
        from trials.hosts import trial

        return {path: (self.site / path).read_bytes() for path in self.files() if not trial(self.kit).is_state(path)}

    def test_files_that_are_written_moved_and_removed_stay_as_they_were(self) -> None:
        journal = "$place = wp_upload_dir()['basedir']; wp_mkdir_p( \"$place/bookings\" ); "
        journal += "file_put_contents( \"$place/bookings/journal.txt\", $data['boat'], FILE_APPEND ); "
        journal += 'rename( "$place/bookings/journal.txt", "$place/bookings/old.txt" ); '
        journal += "if ( (string) $data['boat'] !== file_get_contents( \"$place/bookings/old.txt\" ) ) { bb_journal_is_lost(); } "
        self.change(BOOKINGS, CREATED, f"\t\t{journal}\n{CREATED}")
        #  said by name only, for the function is called where the journal is not what was written
        self.change(f"{PLACE}/includes/bb-core-functions.php", "function bb_options()", "function bb_journal_is_lost() { throw new \\ArgumentCountError( 'Too few arguments: ' . __FUNCTION__ ); }\n\nfunction bb_options()")  # fmt: skip
        self.change(INSTALL, SEED, f"\t\tunlink( BB_ABSPATH . 'uninstall.php' );\n{SEED}")
        before = self.kept()
        self.assertEqual(self.findings(), [])
        self.assertEqual(self.kept(), before)
        self.assertIn(f"{PLACE}/uninstall.php", before)

    def test_what_is_tried_keeps_no_row(self) -> None:
        from trials.hosts import trial

        count = "select concat('rows: ', (select count(*) from bq_bb_bookings), ' ', (select count(*) from bq_posts))"
        self.assertEqual(self.findings(), [])
        self.assertEqual(self.findings(), [])  # a row that stayed would not be made again, but it would be there
        trial(self.kit).run_sql(self.site, f"create table seen as {count} as told")
        self.addCleanup(trial(self.kit).stop, self.site)
        trial(self.kit).run_sql(self.site, "alter table seen add constraint check (told like 'rows: 0 %')")

    def test_it_is_gone_on_with_after_what_ends_the_run(self) -> None:
        self.change(f"{PLACE}/uninstall.php", "remove_role(", "delete_role(")
        self.assertEqual(self.findings()[0][:2], ("served.action-fails", f"{PLACE}/uninstall.php"))
        text = (self.site / PLACE / "includes/admin/class-bb-admin.php").read_text("utf-8")
        self.assertIn("\t\texit;", text)  # the export that is tried before

    def test_a_module_that_runs_programs_is_left_alone(self) -> None:
        self.change(PRIVACY, "array( 'email' => '', 'skipper' => '' )", "array( 'mail' => '', 'skipper' => '' )")
        self.assertEqual(self.findings()[0][:2], ("installed.statement-refused", PRIVACY))
        self.change(PRIVACY, "class BB_Privacy {", "function bb_backup() {\n\texec( 'true' );\n}\n\nclass BB_Privacy {")
        self.assertEqual(self.findings(), [])

    def test_nothing_is_tried_where_a_table_cannot_take_back_what_is_written(self) -> None:
        from trials.hosts import trial

        self.change(PRIVACY, "array( 'email' => '', 'skipper' => '' )", "array( 'mail' => '', 'skipper' => '' )")
        trial(self.kit).run_sql(self.site, "alter table bq_bb_notes engine=MyISAM")
        self.addCleanup(trial(self.kit).stop, self.site)
        self.assertEqual(self.findings(), [])

    def test_an_endpoint_for_visitors_is_a_note_that_says_what_it_allows(self) -> None:
        ran = self.sprout("check")
        self.assertEqual(ran.status, 0, ran.out)
        self.assertIn("permitted.endpoint-open", ran.out)
        self.assertIn("(POST)", ran.out)
        self.assertNotIn("None", ran.out)

    def test_files_alone_say_what_is_tried_only_on_the_host_is_not_asked(self) -> None:
        self.change(PRIVACY, "array( __CLASS__, 'export' )", "array( __CLASS__, 'exports' )")
        self.assertEqual(self.findings("--static"), [])
        self.assertEqual(self.findings()[0], ("registered.given-uncallable", PRIVACY, 15))

    def test_what_only_the_administration_registers_is_registered(self) -> None:
        blocks = f"{PLACE}/includes/class-bb-blocks.php"
        hooked = "\t\tadd_filter( 'block_categories_all', array( __CLASS__, 'category' ) );"
        self.change(blocks, hooked, f"\t\tif ( is_admin() ) {{\n\t{hooked}\n\t\t}}")
        self.assertEqual(self.findings(), [])
        self.change(blocks, "'slug' => 'berth-booking'", "'slug' => 'harbour'")
        self.assertEqual([code for code, _, _ in self.findings()], ["placed.name-unregistered"])

    def test_what_comes_of_values_that_are_made_up_is_no_finding(self) -> None:
        email, cron = f"{PLACE}/includes/emails/class-bb-email.php", f"{PLACE}/includes/class-bb-cron.php"
        self.change(email, '"emails/{$this->kind}.php"', '"emails/{$booking->boat}.php"')
        self.change(
            cron, "new BB_Email( 'reminder' )", "new BB_Email( 'reminder', array( 'Gannet' => 1 )[ $booking->boat ] )"
        )
        self.assertEqual(self.findings(), [])

    def test_nothing_is_asked_of_other_machines(self) -> None:
        with socket.create_server(("127.0.0.1", 0)) as other:
            address = f"http://127.0.0.1:{other.getsockname()[1]}/tides"
            asks = f"\t\t@file_get_contents( '{address}' );\n\t\twp_remote_get( '{address}' );\n"
            self.change(BOOKINGS, CREATED, f"{asks}{CREATED}")
            self.assertEqual(self.findings(), [])
            other.settimeout(0.1)
            self.assertRaises(TimeoutError, other.accept)
