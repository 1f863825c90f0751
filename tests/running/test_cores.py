"""Work shared out among copies of the process: the same results, and errors, as when one process does it all."""

import os
import signal
import time
import unittest
from collections.abc import Sequence

from swift_sprout.running.copies import Copy, Line, end_copies, report_at_end, stop_reporting
from swift_sprout.running.cores import FEW, LARGEST_PIECE, WORTH_IT, InCopy, both_cores, few_at_a_time, in_two_steps
from swift_sprout.running.portions import MOST, Portions


def end_here_unless(process: int) -> None:
    """End this process at once when it is not the given one."""
    if os.getpid() != process:
        os.kill(os.getpid(), signal.SIGKILL)


class Copies(unittest.TestCase):
    def test_what_is_sent_is_answered_in_both_directions(self):
        def doubling(line: Line) -> None:
            while True:
                line.send(line.receive() * 2)

        copy = Copy(doubling)
        for tide in (3, "ebb", [1.5]):
            copy.line.send(tide)
            self.assertEqual(copy.line.receive(), tide * 2)
        copy.end()
        with self.assertRaises(ChildProcessError):
            os.waitpid(copy.process, 0)

    def test_one_that_ended_is_told_and_not_waited_for(self):
        copy = Copy(lambda line: line.send("the last word"))
        self.assertEqual(copy.line.receive(), "the last word")
        with self.assertRaises(EOFError):
            copy.line.receive()
        copy.end()

    def test_the_end_waits_for_what_is_begun_and_no_copy_keeps_another_waiting(self):
        reading, writing = os.pipe()

        def listening(line: Line) -> None:
            try:
                line.receive()
            except EOFError:
                time.sleep(0.2)
                os.write(writing, b"ended")

        copies = [Copy(listening) for _ in range(3)]
        end_copies()
        self.assertEqual(os.read(reading, 100), b"ended" * len(copies))
        os.close(reading)
        os.close(writing)

    def test_another_child_of_this_process_does_not_wait_for_it(self):
        copy = Copy(lambda line: line.receive())
        child = os.fork()
        if child == 0:
            status = 1
            try:
                end_copies()
                status = 0
            finally:
                os._exit(status)
        self.assertEqual(os.waitpid(child, 0)[1], 0)
        copy.line.send("it is still there")
        copy.end()

    def test_work_in_a_copy_that_dies_is_done_here(self):
        here = os.getpid()

        def work() -> int:
            end_here_unless(here)
            return os.getpid()

        self.assertEqual(InCopy(work).result(), here)
        self.assertNotEqual(InCopy(os.getpid).result(), here)


class Besides(unittest.TestCase):
    """What copies tell at their end besides their work."""

    def setUp(self) -> None:
        self.seen = ["here"]
        self.taken: list[list[str] | None] = []
        report_at_end(lambda: self.seen, self.taken.append)
        self.addCleanup(stop_reporting)

    def test_it_is_told_after_the_work_and_once(self):
        def work() -> str:
            self.seen.append("there")
            return "done"

        self.assertEqual(InCopy(work).result(), "done")
        self.assertEqual((self.taken, self.seen), ([["here", "there"]], ["here"]))

    def test_it_is_found_behind_what_nobody_has_received(self):
        def sending(line: Line) -> None:
            for _ in range(9):
                line.send(b"x" * 100_000)

        copy = Copy(sending)
        copy.end()
        self.assertEqual(self.taken, [["here"]])

    def test_one_that_dies_has_told_nothing_which_is_told(self):
        here = os.getpid()
        InCopy(lambda: end_here_unless(here)).result()
        self.assertEqual(self.taken, [None])

    def test_every_copy_of_work_that_is_shared_out_tells_it(self):
        both_cores(lambda thing: self.seen.append(str(thing)), range(WORTH_IT))
        told = {one for told in self.taken for one in told or ()}
        self.assertEqual(told, {"here", *map(str, range(WORTH_IT))})

    def test_copies_made_later_tell_nothing_when_nobody_asks_any_more(self):
        stop_reporting()
        self.assertEqual(InCopy(lambda: 3).result(), 3)
        self.assertEqual(self.taken, [])


class TakingPortions(unittest.TestCase):
    def test_copies_take_each_once_and_the_slower_one_fewer(self):
        portions = Portions(range(100))
        self.addCleanup(portions.close)

        def taking(seconds: float) -> list[int]:
            taken = []
            for number in portions:
                taken.append(number)
                time.sleep(seconds)
            return taken

        slow, quick = InCopy(lambda: taking(0.02)), InCopy(lambda: taking(0.001))
        by_slow, by_quick = slow.result(), quick.result()
        self.assertEqual(sorted(by_slow + by_quick), [*range(100)])
        self.assertEqual((by_slow, by_quick), (sorted(by_slow), sorted(by_quick)))
        self.assertLess(len(by_slow), len(by_quick))

    def test_what_is_put_later_is_taken_by_whoever_comes(self):
        portions = Portions()
        self.addCleanup(portions.close)
        self.assertEqual([*portions], [])
        InCopy(lambda: portions.put([7, 70_000])).result()
        self.assertEqual(next(iter(portions)), 7)
        self.assertEqual([*portions], [70_000])


class Sharing(unittest.TestCase):
    things = tuple(range(WORTH_IT * 2 + 1))

    def test_many_things_keep_their_order(self):
        self.assertEqual(both_cores(lambda thing: thing * 2, self.things), [thing * 2 for thing in self.things])
        self.assertEqual(both_cores(lambda thing: thing * 2, [1, 2]), [2, 4])

    def test_a_copy_that_dies_is_made_up_for(self):
        here = os.getpid()

        def work(thing: int) -> int:
            end_here_unless(here)
            return thing

        self.assertEqual(both_cores(work, self.things), list(self.things))

    def test_a_few_at_a_time_are_never_more_and_all_are_done_once(self):
        def work(few: Sequence[int]) -> list[tuple[int, int]]:
            return [(thing, len(few)) for thing in few]

        for count in (0, 1, FEW, FEW + 1, len(self.things)):
            found = few_at_a_time(work, self.things[:count])
            self.assertEqual([thing for thing, _ in found], list(self.things[:count]))
            self.assertTrue(all(1 <= length <= FEW for _, length in found))


class TwoSteps(unittest.TestCase):
    """Each thing is a number; the first step squares it, and the second needs the sum of all squares."""

    def setUp(self) -> None:
        self.total = 0
        self.told: list[int] = []

    def first(self, few: Sequence[int]) -> list[int]:
        return [number * number for number in few]

    def merge(self, squares: list[int]) -> None:
        self.told, self.total = squares, sum(squares)

    def second(self, few: Sequence[int]) -> list[tuple[int, int, bool]]:
        return [(number, self.total, self.told[number] == number * number) for number in few]

    def assert_right(self, count: int, first=None, second=None) -> None:
        found = in_two_steps(range(count), first or self.first, self.merge, second or self.second)
        total = sum(number * number for number in range(count))
        self.assertEqual(found, [(number, total, True) for number in range(count)])

    def test_the_second_step_knows_what_the_first_found_out_of_all(self):
        for count in (1, FEW + 1, WORTH_IT, LARGEST_PIECE * (os.cpu_count() or 1) + 1):
            with self.subTest(count):
                self.assert_right(count)

    def test_of_very_many_no_more_portions_are_made_than_a_line_holds(self):
        count = LARGEST_PIECE * (os.cpu_count() or 1)
        found = in_two_steps(range(count), self.first, self.merge, lambda few: [len(few)] * len(few), at_a_time=1)
        self.assertEqual(len(found), count)
        self.assertLessEqual(sum(1 / length for length in found), MOST + 1)

    def test_what_a_slow_copy_does_not_come_to_is_done_by_the_other(self):
        here, slow = os.getpid(), Portions([0])
        self.addCleanup(slow.close)

        def second(few: Sequence[int]) -> list[tuple[int, int, bool]]:
            for _ in slow:  # whoever asks first is held up by what it begins with
                time.sleep(1)
            done.append((os.getpid(), len(few)))
            return self.second(few)

        done: list[tuple[int, int]] = []
        report_at_end(lambda: done, lambda told: by_copy.append(sum(count for _, count in told)))
        self.addCleanup(stop_reporting)
        by_copy: list[int] = []
        self.assert_right(WORTH_IT * 4, second=second)
        self.assertEqual(sum(by_copy), WORTH_IT * 4)
        self.assertLessEqual(min(by_copy), FEW)
        self.assertEqual(os.getpid(), here)

    def test_a_copy_that_dies_in_either_step_is_made_up_for(self):
        here = os.getpid()

        def first(few: Sequence[int]) -> list[int]:
            if WORTH_IT - 1 in few:
                end_here_unless(here)
            return self.first(few)

        def second(few: Sequence[int]) -> list[tuple[int, int, bool]]:
            if 0 in few:
                end_here_unless(here)
            return self.second(few)

        self.assert_right(WORTH_IT, first=first)
        self.assert_right(WORTH_IT, second=second)

    def test_an_error_is_raised_as_if_all_were_done_here(self):
        def second(few: Sequence[int]) -> list[tuple[int, int, bool]]:
            raise ValueError(f"no tide for {few[0]}")

        with self.assertRaisesRegex(ValueError, "no tide for 0"):
            in_two_steps(range(WORTH_IT), self.first, self.merge, second)


if __name__ == "__main__":
    unittest.main()
