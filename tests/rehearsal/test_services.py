"""Who answers where: the services of a switch in its management table, and its input filter, asked from outside."""

from __future__ import annotations

import shutil
import socket
import subprocess
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from barrio.core import compile
from barrio.core.brief.document import read
from barrio.rehearsal.ground import wait_until
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node
from barrio.rehearsal.room import Here
from tests.rehearsal.asked import established, planned_sessions
from tests.rehearsal.whole import HOSTS, PATIENCE, Fabric, whole

SNMPGET = ["snmpget", "-v3", "-l", "authPriv", "-u", "monitor", "-a", "SHA", "-A", "made-up-words"]
SNMPGET += ["-x", "AES", "-X", "made-up-words", "-Oqv"]


class Watched:
    def __init__(self, lab: Lab) -> None:
        self.lab, self.leaf = lab, lab.node("leaf-w2")
        self.tenant = lab.hosts[list(HOSTS).index("far")]
        self.model = lab.compiled.models["leaf/w2/a"]

    def from_management(self, *words: str, timeout: float = 20) -> str:
        return self.lab.ground.run("ip", "netns", "exec", self.lab.oob, *words, timeout=timeout).out


@pytest.fixture(scope="module")
def watched(fabric: Fabric) -> Watched:
    """A leaf of the fabric that carries everything, with its services running."""
    found = Watched(fabric.lab)
    _start_services(found.leaf)
    return found


def _start_services(leaf: Node) -> None:
    """The services as systemd would start them, from the switch's own files; keys are what staging gives."""
    etc = leaf.folder / "etc"
    key = leaf.folder / "host_key"
    subprocess.run(["ssh-keygen", "-q", "-t", "ed25519", "-N", "", "-f", key], check=True)
    config = etc / "ssh/sshd_config"
    config.write_text(
        config.read_text()
        .replace("/etc/ssh/ssh_host_ed25519_key", str(key))
        .replace("/etc/issue.net", str(etc / "issue.net"))
    )
    leaf.start("/usr/sbin/sshd", "-D", "-e", "-f", str(config))
    persistent = leaf.folder / "snmp"
    persistent.mkdir()
    (persistent / "snmpd.conf").write_text('createUser monitor SHA "made-up-words" AES "made-up-words"\n')
    leaf.start(
        "env", f"SNMP_PERSISTENT_DIR={persistent}", "snmpd", "-f", "-Le", "-C", "-c",
        f"{etc / 'snmp/snmpd.conf'},{persistent / 'snmpd.conf'}", "-p", "/run/snmpd.pid",
    )  # fmt: skip


def _listening(leaf: Node) -> str:
    return leaf.run("ss", "-Hlntu")


def test_ssh_and_snmp_answer_in_the_management_table(watched: Watched) -> None:
    address = watched.model.management.ip
    hello = ["timeout", "5", "bash", "-c", f"exec 3<>/dev/tcp/{address}/22; head -c 4 <&3"]
    assert wait_until(lambda: watched.from_management(*hello) == "SSH-", PATIENCE)
    asked = [*SNMPGET, address, "1.3.6.1.2.1.1.5.0"]
    assert wait_until(lambda: watched.from_management(*asked).strip() == '"leaf-w2"', PATIENCE), _listening(
        watched.leaf
    )


def test_nothing_answers_a_tenant_or_the_fabric(watched: Watched) -> None:
    """Not on the gateway, not on the loopback, not on the management address, wherever the question comes from."""
    assert wait_until(lambda: watched.tenant.ping("10.72.1.1"), PATIENCE)
    spine = watched.lab.node("spine-1")
    targets = ("10.72.1.1", watched.model.router_id, watched.model.management.ip)
    dials = [("timeout", "3", "bash", "-c", f"exec 3<>/dev/tcp/{target}/22") for target in targets]
    dials += [(*SNMPGET, "-r", "0", "-t", "2", target, "1.3.6.1.2.1.1.5.0") for target in targets]
    with ThreadPoolExecutor(len(dials) * 2) as pool:
        asked = [pool.submit(who.ask, *words) for words in dials for who in (watched.tenant, spine)]
        assert all(one.result().code != 0 for one in asked)
    heard = _listening(watched.leaf)
    assert f"{watched.model.management.ip}%mgmt:22 " in heard and ":22 " in heard
    assert heard.count(":22 ") == heard.count(":161 ") == 1
    assert ":123 " not in heard and ":53 " not in heard, "the switch serves neither time nor names"


LISTEN = """
import socket, sys
heard = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
heard.bind((sys.argv[1], int(sys.argv[2])))
heard.settimeout(40)
print(heard.recvfrom(2048)[1][0])
"""


@pytest.mark.long
@pytest.mark.parametrize(("server", "port"), [("10.255.30.21", 123), ("10.255.30.14", 514)])
def test_time_is_asked_for_and_logs_are_sent_over_management(watched: Watched, server: str, port: int) -> None:
    """A server on the out-of-band network hears the switch's management address."""
    etc, leaf = watched.leaf.folder / "etc", watched.leaf
    with ThreadPoolExecutor() as pool:
        heard = pool.submit(watched.from_management, "python3", "-c", LISTEN, server, str(port), timeout=60)
        time.sleep(2)
        if port == 123:
            text = (etc / "chrony/chrony.conf").read_text().replace("/var/lib/chrony/", f"{leaf.run_folder}/")
            (leaf.folder / "chrony.conf").write_text(f"{text}bindcmdaddress /\npidfile {leaf.run_folder}/chrony.pid\n")
            leaf.start("chronyd", "-d", "-x", "-u", "root", "-f", str(leaf.folder / "chrony.conf"))
        else:
            line, config = leaf.run_folder / "log", leaf.folder / "rsyslog.conf"
            rules = etc / "rsyslog.d/40-fabric.conf"
            config.write_text(
                f'module(load="imuxsock" SysSock.Use="off")\ninput(type="imuxsock" Socket="{line}")\n$IncludeConfig {rules}\n'
            )
            leaf.start("rsyslogd", "-n", "-f", str(config), "-i", str(leaf.run_folder / "rsyslog.pid"))
            assert watched.lab.ground.exists(line, 20)
            leaf.run("logger", "--socket", str(line), "-p", "daemon.warning", "said here")
        assert heard.result().strip() == watched.model.management.ip


@pytest.mark.long
def test_the_banner_is_shown_before_sign_in(watched: Watched) -> None:
    said = watched.lab.ground.run(
        "ip", "netns", "exec", watched.lab.oob, "ssh", "-o", "StrictHostKeyChecking=no", "-o", "UserKnownHostsFile=/dev/null",
        "-o", "BatchMode=yes", f"ines@{watched.model.management.ip}", "true", timeout=30,
    )  # fmt: skip
    assert "Puerto Azulejo_ authorised people only" in said.err and "Permission denied" in said.err


@pytest.mark.long
def test_neighbours_hear_where_the_switch_is_managed(watched: Watched) -> None:
    spine = watched.lab.node("spine-1")
    told = lambda: spine.run("lldpcli", "-u", str(spine.run_folder / "lldpd"), "show", "neighbors")  # noqa: E731
    assert wait_until(lambda: f"MgmtIP:       {watched.model.management.ip}" in told(), PATIENCE), told()
    assert watched.model.router_id not in told()


FILTERED = """
fabric: gate
spines: {count: 1, racks: y00}
racks: [{racks: y01..y02, leaves: 1}]
underlay: {ttl_security: true}
"""


@pytest.fixture(scope="module")
def gate() -> Iterator[Lab]:
    """On this kernel, which has the filter's family."""
    with Lab(compile(read(FILTERED).brief), Here()) as lab:
        yield lab


def test_sessions_come_up_through_the_filter_and_ttl_security(gate: Lab) -> None:
    assert all(entry.device != "table inet own" for node in gate.nodes.values() for entry in node.left_out)

    assert wait_until(lambda: established(gate) == planned_sessions(gate), PATIENCE)


def test_a_neighbour_reaches_no_other_port(gate: Lab) -> None:
    """Something listens on every address there; the filter keeps the fabric away from it."""
    leaf, spine = gate.node("leaf-y01"), gate.node("spine-1")
    address = gate.compiled.models["leaf/y01/a"].fabric_ports[0].v4
    assert address
    ports = (22, 161, 2601, 2605, 80)
    server = "import socket; s = socket.socket(); s.setsockopt(1, 2, 1); s.bind(('', %d)); s.listen(); s.accept(); s.accept()"
    listening = [leaf.start("python3", "-c", server % port) for port in ports]
    for port in ports:
        assert wait_until(lambda port=port: f":{port} " in leaf.run("ss", "-Hlnt"), 5)

    def taken(who: Node, target: str, port: int) -> bool:
        return who.ask("timeout", "2", "bash", "-c", f"exec 3<>/dev/tcp/{target}/{port}").code == 0

    with ThreadPoolExecutor() as pool:
        from_fabric = list(pool.map(lambda port: taken(spine, address.split("/")[0], port), ports))
    assert from_fabric == [False] * len(ports)
    assert all(taken(leaf, "127.0.0.1", port) for port in ports)
    for process in listening:
        leaf.processes.remove(process)
        gate.ground.stop(process)


def test_bgp_is_spoken_with_the_planned_neighbour_only(gate: Lab) -> None:
    """From its address a connection is taken; from another address on the same cable it is not."""
    leaf, spine = gate.node("leaf-y01"), gate.node("spine-1")
    port = gate.compiled.models["leaf/y01/a"].fabric_ports[0]
    assert port.v4
    ours, theirs = port.v4.split("/")[0], port.neighbor
    dial = (
        "import socket, sys\ns = socket.socket(); s.settimeout(2); s.setsockopt(0, 2, 255)\n"
        "s.bind((sys.argv[1], 0)); s.connect((sys.argv[2], 179))"
    )
    assert spine.ask("python3", "-c", dial, theirs, ours).code == 0
    spine.run("ip", "address", "add", "192.0.2.1/32", "dev", port.peer_port)
    leaf.run("ip", "route", "add", "192.0.2.1/32", "dev", port.label)
    assert spine.ask("python3", "-c", dial, "192.0.2.1", ours).code != 0


@pytest.mark.long
def test_what_the_routing_daemons_say_reaches_the_log_server(tmp_path: Path) -> None:
    """Before Debian's own rule for FRRouting, which keeps its lines and stops."""
    files = whole().files("leaf/w2/a")
    ours = next(path for path in files if "rsyslog.d" in path)
    debian = Path("/etc/rsyslog.d/45-frr.conf")
    assert Path(ours).name < debian.name and "stop" in debian.read_text()
    server = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
    server.bind(("127.0.0.1", 0))
    server.settimeout(5)
    rules = tmp_path / "rsyslog.d"
    rules.mkdir()
    shutil.copy(debian, rules)
    text = files[ours].replace('device="mgmt"', "").replace('port="514"', f'port="{server.getsockname()[1]}"')
    (rules / Path(ours).name).write_text(text.replace("10.255.30.14", "127.0.0.1"))
    config, line = tmp_path / "rsyslog.conf", tmp_path / "log"
    config.write_text(
        f'module(load="imuxsock" SysSock.Use="off")\ninput(type="imuxsock" Socket="{line}")\n$IncludeConfig {rules}/*.conf\n'
    )
    daemon = subprocess.Popen(["rsyslogd", "-n", "-f", config, "-i", tmp_path / "pid"], stderr=subprocess.DEVNULL)
    try:
        assert wait_until(line.exists, 10)
        for level, program, said in (
            (6, "bgpd", "up"),
            (7, "bgpd", "debug"),
            (6, "cron", "info"),
            (4, "kernel", "warn"),
        ):
            with socket.socket(socket.AF_UNIX, socket.SOCK_DGRAM) as out:
                out.sendto(f"<{3 * 8 + level}>{program}[1]: {said}".encode(), str(line))
        heard = [server.recv(4096).decode() for _ in range(2)]
        assert "bgpd[1]: up" in heard[0] and "kernel[1]: warn" in heard[1]
        time.sleep(0.5)
        server.setblocking(False)
        with pytest.raises(BlockingIOError):
            server.recv(4096)
    finally:
        daemon.terminate()
        daemon.wait()
