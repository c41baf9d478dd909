"""Processes on one port: who waits in each, as all of them see it."""

from tests.standins import sharing
from vivid_arm.api.crowd import MORE_BY, Crowd


def test_more_waiting_than_in_another_process_is_too_many() -> None:
    crowd = Crowd(2)
    with sharing(crowd, waiting=1) as other:
        assert not crowd.too_many(MORE_BY), "one who goes would wait as long there"
        assert crowd.too_many(MORE_BY + 1)
        other.kill()
        other.join()
        assert not crowd.too_many(20), "nobody is left to go to"
    with sharing(crowd, waiting=0):
        assert crowd.too_many(MORE_BY), "the next takes the place of the one that ended"


def test_alone_on_its_port_a_process_gives_nobody_away() -> None:
    assert not Crowd().too_many(20)
    crowd = Crowd(2)
    crowd.join()
    assert not crowd.too_many(20), "the other has not begun"
