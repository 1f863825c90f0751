"""Work shared out among copies of the process: the same results, and errors, as when one process does it all."""

import os
import signal
import time
import unittest
from collections.abc import Sequence

from swift_sprout.running.copies import Copy, Line, end_copies
from swift_sprout.running.cores import FEW, LARGEST_PIECE, WORTH_IT, InCopy, both_cores, few_at_a_time, in_two_steps


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
