"""What a changed brief names otherwise, or no longer."""

from __future__ import annotations

import unittest

from swift_sprout.core.parts.kinds import kind_named
from swift_sprout.core.parts.records import Record
from swift_sprout.core.parts.renamed import gone_fields, gone_records, renamed_records


def record(line: str) -> Record:
    found = kind_named("record").make(kind_named("record").from_line(line))
    assert isinstance(found, Record)
    return found


class Renamed(unittest.TestCase):
    before = (record("Berth: number text(12), length_m integer"), record("Booking: vessel text(60), note long text"))

    def told(self, *lines: str) -> tuple[list[tuple[str, str]], list[str], list[str]]:
        after = [record(line) for line in lines]
        return (
            [(one.name.title, other.name.title) for one, other in renamed_records(self.before, after)],
            [one.name.title for one in gone_records(self.before, after)],
            [f"{one.name.title}.{field}" for one, field in gone_fields(self.before, after)],
        )

    def test_by_the_fields_it_is_told_what_became_of_each(self) -> None:
        berth, booking = "Berth: number text(12), length_m integer", "Booking: vessel text(60), note long text"
        for lines, told in (
            ((berth, booking), ([], [], [])),
            ((berth.replace("Berth", "Mooring"), booking), ([("Berth", "Mooring")], [], [])),
            ((booking, berth.replace("Berth", "Mooring")), ([("Berth", "Mooring")], [], [])),
            ((berth,), ([], ["Booking"], [])),
            ((berth.replace("Berth", "Mooring"), berth.replace("Berth", "Pier"), booking), ([], ["Berth"], [])),
            ((berth, booking.replace("note", "remark")), ([], [], [])),
            ((berth, booking.replace("note long text", "hours integer")), ([], [], ["Booking.note"])),
            ((berth.replace("number text(12), ", ""), booking), ([], [], ["Berth.number"])),
        ):
            with self.subTest(lines):
                self.assertEqual(self.told(*lines), told)


if __name__ == "__main__":
    unittest.main()
