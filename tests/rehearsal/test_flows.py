"""What speaks as hosts and servers on a lab's ground, between two namespaces of this kernel: pings that count, flows that miss nothing, servers that answer."""

from __future__ import annotations

import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest

from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.probes import checksum, request, same
from barrio.rehearsal.room import Here
from barrio.rehearsal.servers import name_asked, told_name, told_time
from barrio.rehearsal.tally import told

LINES = """netns add one
netns add two
link add p0 netns one type veth peer name p0 netns two
"""


@pytest.fixture(scope="module")
def ground() -> Iterator[Here]:
    made = Here()
    try:
        assert made.run("ip", "-batch", "-", given=LINES).code == 0
        for name, last in (("one", 1), ("two", 2)):
            lines = f"link set lo up\nlink set p0 up\naddress add 10.7.0.{last}/24 dev p0\naddress add fd07::{last}/64 dev p0 nodad\n"
            assert made.run("ip", "-n", name, "-batch", "-", given=lines).code == 0
        yield made
    finally:
        made.close()


def program(ground: Here, name: str, word: dict[str, Any]) -> Any:
    place = ground.folder / f"word-{name}"
    place.write_text(json.dumps(word))
    done = ground.run("python3", "-S", "-E", str(ground.folder / name), str(place), timeout=60)
    assert done.code == 0, done.err
    return json.loads(done.out)


def flows(ground: Here, *acts: tuple[float, str], **more: Any) -> Any:
    doing = [{"at": at, "name": "act", "run": ["sh", "-c", words]} for at, words in acts]
    plan = {
        "flows": [{"number": at, "from": "one", "to": "two", "at": to} for at, to in enumerate(("10.7.0.2", "fd07::2"))]
    }
    said = program(ground, "flows.py", plan | {"rate": 200, "seconds": 3.0, "acts": doing} | more)
    when = [begins + at / 200 for begins, length in said["sent"]["0"] for at in range(length)]
    return said | {"flows": [told(said["sent"][at], said["arrived"][at], 200) for at in "01"], "when": when}


def test_each_ping_has_its_own_answer_and_a_packet_too_large_is_told_apart(ground: Here) -> None:
    asked = [
        {"in": "one", "to": "10.7.0.2"}, {"in": "one", "to": "fd07::2", "size": 1452}, {"in": "two", "to": "10.7.0.9"},
        {"in": "one", "to": "10.7.0.2", "size": 1472}, {"in": "one", "to": "10.7.0.2", "size": 1473}, {"in": "two", "to": "10.7.0.1", "device": "p0"},
    ]  # fmt: skip
    heard = program(ground, "probes.py", {"pings": asked, "rounds": 2, "wait": 0.3})
    assert heard == [1, 1, 0, 1, -1, 1]


def test_a_flow_that_nothing_happens_to_loses_nothing(ground: Here) -> None:
    said = flows(ground)
    for one in said["flows"]:
        assert one["received"] == one["sent"] > 0 and one["silences"] == [] and one["doubled"] == 0
        assert set(one["heard"]) <= {1, -1}, "all that was sent in a tenth of a second, or nothing was"
    assert sum(one["sent"] for one in said["flows"]) + said["late"] >= 1196, "what a busy machine did not send is said"


def test_what_is_lost_while_something_is_away_is_counted_and_when(ground: Here) -> None:
    address, stop = "10.7.0.2/24 dev p0", ground.folder / "back"
    away = f"ip -n two address del {address}; touch {ground.folder}/away"
    back = f"until test -e {ground.folder}/away; do sleep 0.05; done; sleep 0.6; ip -n two address add {address}; sleep 0.3; touch {stop}"
    said = flows(ground, (0.5, away), (0.5, back), seconds=50.0, stop=str(stop))
    four, six = said["flows"]
    [(begins, ends, lost)] = four["silences"]
    assert begins > said["acts"][0]["at"] - 0.1 and ends - begins > 0.5
    assert lost == sum(1 for at in said["when"] if begins - 0.001 < at < ends - 0.001) > 0
    assert four["sent"] - four["received"] == lost
    inside = {int(at * 10) for at in said["when"] if begins + 0.1 < at < ends - 0.1}
    assert inside and {four["heard"][tenth] for tenth in inside} == {0} and four["heard"][0] == 1
    assert six["silences"] == [] and six["received"] == six["sent"], "the other flow goes on"
    assert [one["name"] for one in said["acts"]] == ["act", "act"]


def test_flows_end_when_a_file_says_so(ground: Here) -> None:
    stop = ground.folder / "stop"
    with ThreadPoolExecutor() as pool:
        running = pool.submit(flows, ground, seconds=50.0, stop=str(stop))
        assert not wait_until(running.done, 1.0)
        stop.touch()
        said = running.result(timeout=60)
    one = said["flows"][0]
    assert one["received"] == one["sent"] > 0 and one["sent"] + said["late"] / 2 < 9000, "not the fifty seconds"


def test_a_flow_is_told_the_same_when_one_program_sends_and_another_hears(ground: Here) -> None:
    """As when its two hosts are on two machines: what one sent and the other heard makes one flow, with times of the one that sent."""
    words, stop = {"rate": 200, "seconds": 2.0}, ground.folder / "heard"
    hearing = {"seconds": 60.0, "stop": str(stop), "flows": [{"number": 4, "to": "two", "at": "10.7.0.2"}]}
    with ThreadPoolExecutor() as pool:
        ears = pool.submit(lambda: json.loads(spoken(ground, "ears", words | hearing)))
        assert wait_until(lambda: "40000" in ground.run("ip", "netns", "exec", "two", "ss", "-lun").out, 30)
        sent = json.loads(spoken(ground, "sent", {**words, "flows": [{"number": 4, "from": "one", "at": "10.7.0.2"}]}))
        stop.touch()
        heard = ears.result(30)
    assert sent["arrived"] == {} == heard["sent"], "each tells its own"
    one = told(sent["sent"]["4"], heard["arrived"]["4"], 200, by=5.0)
    assert one["sent"] == one["received"] > 0 and one["silences"] == []
    lost = told([(0.0, 10), (0.5, 10)], [(1, 8), (0, 6), (2, 2), (0, 1)], 100, by=1.0)
    assert (lost["sent"], lost["received"], lost["doubled"]) == (20, 10, 2)
    assert lost["silences"] == [[1.08, 1.54, 6], [1.56, 1.59, 4]], (
        "moved to the clock of the others; the last ones never came"
    )


def spoken(ground: Here, name: str, word: dict[str, Any]) -> str:
    place = ground.folder / f"word-{name}"
    place.write_text(json.dumps(word))
    return ground.run("python3", "-S", "-E", str(ground.folder / "flows.py"), str(place), timeout=60).out


def test_servers_answer_for_the_time_and_for_names_and_hear_logs(ground: Here) -> None:
    place, log = ground.folder / "word-servers", ground.folder / "servers.log"
    place.write_text(
        json.dumps(
            {"time": ["10.7.0.2"], "names": ["10.7.0.2"], "logs": ["10.7.0.2", "fd07::2"], "port": 514, "over": "tcp"}
        )
    )
    ground.start(
        "ip", "netns", "exec", "two", "python3", "-S", "-E", str(ground.folder / "servers.py"), str(place), log=log
    )
    assert wait_until(lambda: '"ready"' in log.read_text(), 10)
    ask = (
        "import socket, sys\n"
        "def once(port, data):\n"
        "    one = socket.socket(socket.AF_INET, socket.SOCK_DGRAM); one.settimeout(5); one.sendto(data, ('10.7.0.2', port)); return one.recv(512)\n"
        "print(once(123, b'\\x23' + bytes(47)).hex())\n"
        "print(once(53, bytes.fromhex('4c420100000100000000000005747269616c076578616d706c650000010001')).hex())\n"
        "one = socket.create_connection(('fd07::2', 514)); one.sendall(b'<28>said here'); one.close()\n"
    )
    done = ground.run("ip", "netns", "exec", "one", "python3", "-c", ask)
    time, name = (bytes.fromhex(line) for line in done.out.split())
    assert time[0] & 7 == 4 and time[1] == 1 and len(time) == 48, "a server's answer, of the first stratum"
    assert name[:2] == b"\x4c\x42" and name.endswith(bytes([192, 0, 2, 53]))
    assert wait_until(lambda: "said here" in log.read_text(), 10)
    heard = [json.loads(line) for line in log.read_text().splitlines()[1:]]
    assert {(one["what"], one["at"], one["from"]) for one in heard} == {("time", "10.7.0.2", "10.7.0.1"), ("names", "10.7.0.2", "10.7.0.1"), ("logs", "fd07::2", "fd07::1")}  # fmt: skip
    assert [one["words"] for one in heard if one["what"] == "names"] == ["trial.example"]


def test_packets_are_as_their_standards_have_them() -> None:
    packet = request(7, 2, 56, six=False)
    assert len(packet) == 64 and checksum(packet) == 0, "RFC 1071: the sum over all of it is nothing"
    assert request(7, 2, 56, six=True)[0] == 128 and checksum(b"\x00\x01\xf2\x03\xf4\xf5\xf6\xf7") == 0x220D
    assert same("fd07::2", "fd07:0:0::2") and not same("fd07::2", "fd07::3") and not same("10.0.0.1", "10.0.0.10")
    timed = told_time(bytes(40) + b"\x01\x02\x03\x04\x05\x06\x07\x08", 1700000000.5)
    assert timed[24:32] == b"\x01\x02\x03\x04\x05\x06\x07\x08", "RFC 5905: what the asker sent comes back as its origin"
    assert int.from_bytes(timed[40:44]) == 1700000000 + 2208988800 and timed[44] == 0x80
    question = told_name(bytes.fromhex("4c420100000100000000000005747269616c076578616d706c650000010001"))
    assert name_asked(question) == "trial.example"
