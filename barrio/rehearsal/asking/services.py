"""Questions about what a switch does over management beside routing: it asks for the time and for names, its log arrives, and who may signs in, with a key only."""

from __future__ import annotations

import json
import re
import time
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from ipaddress import ip_address, ip_network
from pathlib import Path

from barrio.core.model.switch import SwitchModel
from barrio.rehearsal.asking.claims import Asking, Claim, Unaskable, excerpt
from barrio.rehearsal.ground import Done, Ground
from barrio.rehearsal.lab import Lab
from barrio.rehearsal.node import Node

PROGRAMS = {"chronyd": "chrony", "rsyslogd": "rsyslog", "sshd": "openssh-server", "ssh": "openssh-client"}
PATIENCE = 25.0
_SAID = "trial of the log"

_KEYS = """
[ -f "$1" ] && exit 0
ssh-keygen -q -t ed25519 -N '' -C host -f "$1.host"
perl -e 'print crypt("trial words", "\\$6\\$trial\\$")' > "$1.hash"
ssh-keygen -q -t ed25519 -N '' -C trial -f "$1"
"""
_ASK_NAME = """
import socket, sys
asked = bytes.fromhex("4c420100000100000000000005747269616c076578616d706c650000010001")
for server in sys.argv[1:]:
    one = socket.socket(socket.AF_INET6 if ":" in server else socket.AF_INET, socket.SOCK_DGRAM)
    one.setsockopt(socket.SOL_SOCKET, socket.SO_BINDTODEVICE, b"mgmt")
    one.settimeout(2)
    try:
        one.sendto(asked, (server, 53))
        print(server, "answered" if one.recv(512)[:2] == asked[:2] else "answered otherwise")
    except OSError as error:
        print(server, f"no answer ({error})")
"""


@dataclass
class _Served:
    """The servers of the out-of-band network as they are played and heard, and what runs on the switches for them."""

    heard_file: Path
    key: Path
    processes: list[tuple[Ground, int]] = field(default_factory=list)

    def heard(self, asking: Asking) -> list[dict[str, str]]:
        text = asking.lab.ground.run("cat", str(self.heard_file)).out
        return [json.loads(line) for line in text.splitlines() if line.startswith("{")]

    def until(self, asking: Asking, holds: Callable[[Sequence[dict[str, str]]], bool], seconds: float) -> None:
        end = time.monotonic() + seconds
        while time.monotonic() < end and not holds(self.heard(asking)):
            asking.leave()
            time.sleep(0.5)


def begin(asking: Asking) -> None:
    """Start the servers, and on each switch what asks them and whom they may sign in to. Raises `Unaskable` naming what is not installed."""
    lab = asking.lab
    absent = [PROGRAMS[one] for one in PROGRAMS if lab.ground.run("sh", "-c", f"command -v {one}").code]
    if absent:
        raise Unaskable(f"{' and '.join(absent)} {'is' if len(absent) == 1 else 'are'} not installed here")
    key = lab.ground.run_folder / "trial-key"
    made = lab.ground.run("sh", "-ec", _KEYS, "sh", str(key))
    if made.code:
        raise Unaskable(f"keys for a trial of signing in could not be made: {made.err.strip()[-200:]}")
    _hand_out(lab, key)
    common = next(iter(lab.models.values())).common
    told = {
        "time": _addresses(common.ntp), "names": _addresses(common.dns), "logs": _addresses(common.syslog),
        "port": common.syslog_port, "over": common.syslog_over,
    }  # fmt: skip
    word = lab.ground.folder / f"servers-{time.monotonic_ns()}"
    lab.ground.write(word, json.dumps(told))
    served = asking.begun["services"] = _Served(lab.ground.folder / f"{word.name}.log", key)
    played = ("python3", "-S", "-E", str(lab.ground.folder / "servers.py"), str(word))
    within = ("nsenter", f"--net=/run/netns/{lab.oob}")
    served.processes.append((lab.ground, lab.ground.start(*within, *played, log=served.heard_file)))
    served.until(asking, lambda heard: any(one["what"] == "ready" for one in heard), 20)
    with ThreadPoolExecutor(lab.at_once) as pool:
        for started in pool.map(lambda switch: _serve(asking, switch, key), lab.nodes):
            served.processes += started


def _hand_out(lab: Lab, key: Path) -> None:
    """Give the keys of the trial to the other grounds of the lab, at the same place."""
    for ground in lab.laid.grounds:
        for ending in (".pub", ".host", ".host.pub", ".hash"):
            path = Path(f"{key}{ending}")
            if ground is not lab.ground and (text := lab.ground.read(path)) is not None:
                mask = "022" if ending.endswith("pub") else "077"
                ground.run("sh", "-ec", 'umask "$2" && cat > "$1"', "sh", str(path), mask, given=text)


def _addresses(servers: Sequence[object]) -> list[str]:
    return [str(one) for one in servers if str(one)[0].isdigit() or ":" in str(one)]


def services(asking: Asking) -> list[Claim]:
    """Each switch's own chronyd, rsyslogd and sshd, from its own files, against servers that are played: the time comes, names are answered, the log
    arrives, a key signs in, and a password does not. Raises as `begin`."""
    lab = asking.lab
    if "services" not in asking.begun:
        begin(asking)
    served: _Served = asking.begun.pop("services")
    try:
        with ThreadPoolExecutor(lab.at_once) as pool:
            for switch in lab.nodes:
                _log(asking, switch)
            names = dict(zip(lab.nodes, pool.map(lambda switch: _ask_names(asking, switch), lab.nodes), strict=True))
        served.until(asking, lambda heard: _all_heard(asking, heard), PATIENCE)
        heard = served.heard(asking)
        found = [claim for switch in lab.nodes for claim in _told(asking, switch, heard, names[switch])]
        with ThreadPoolExecutor(lab.at_once) as pool:
            for claims in pool.map(lambda switch: list(_sign_in(asking, switch, served.key)), lab.nodes):
                found += claims
        return found
    finally:
        for ground, process in served.processes:
            ground.stop(process)


def _log(asking: Asking, switch: str) -> None:
    """Have something logged on a switch."""
    node = asking.lab.nodes[switch]
    line = node.run_folder / "services" / "log"
    if node.ground.exists(line, 20):
        node.ask("logger", "--socket", str(line), "-p", "daemon.warning", _SAID)


def _serve(asking: Asking, switch: str, key: Path) -> list[tuple[Ground, int]]:
    """Start what serves and asks on a switch."""
    node = asking.lab.nodes[switch]
    ground = node.ground
    place = node.run_folder / "services"
    if ground.run("test", "-d", str(place)).code:
        node.run("sh", "-e", str(ground.folder / "services.sh"), str(node.folder), str(node.run_folder), str(key))
    words = (
        ("chronyd", "-d", "-x", "-u", "root", "-f", f"{place}/chrony.conf"),
        ("rsyslogd", "-n", "-f", f"{place}/rsyslog.conf", "-i", f"{place}/rsyslog.pid"),
        ("/usr/sbin/sshd", "-D", "-e", "-f", f"{place}/sshd_config"),
    )
    return [(ground, ground.start(*node.within, *one, log=node.folder / f"{Path(one[0]).name}.log")) for one in words]


def _ask_names(asking: Asking, switch: str) -> dict[str, str]:
    """What a switch's own name servers answer, by server."""
    node = asking.lab.nodes[switch]
    told = node.files.get("etc/resolv.conf", "")
    servers = re.findall(r"^nameserver (\S+)$", told, re.MULTILINE)
    said = node.ask("python3", "-S", "-E", "-c", _ASK_NAME, *servers).out if servers else ""
    return dict(line.split(" ", 1) for line in said.splitlines() if " " in line)


def _all_heard(asking: Asking, heard: Sequence[dict[str, str]]) -> bool:
    """Whether every switch was heard by every server, and took the time of one."""
    common = next(iter(asking.lab.models.values())).common
    there = {(one["what"], one["at"], one.get("from", "")) for one in heard if one["what"] != "ready"}
    wanted = [("time", server) for server in _addresses(common.ntp)] + [
        ("logs", server) for server in _addresses(common.syslog)
    ]
    models = asking.lab.models.values()
    return all((what, server, model.management.ip) in there for what, server in wanted for model in models) and (
        not common.ntp or all(_took_time(asking.lab.nodes[key]) for key in asking.lab.models)
    )


def _took_time(node: Node) -> str:
    """The server whose time a switch took, as its chronyd says; empty while it has none."""
    said = node.ground.read(node.folder / "chronyd.log") or ""
    chosen = re.findall(r"Selected source (\S+)", said)
    return str(chosen[-1]) if chosen else ""


def _told(asking: Asking, switch: str, heard: Sequence[dict[str, str]], names: dict[str, str]) -> Iterator[Claim]:
    model, node = asking.lab.models[switch], asking.lab.nodes[switch]
    mine = [one for one in heard if one.get("from") == model.management.ip]
    path = f"switches/{model.name}/management/address"
    if _addresses(model.common.ntp):
        took, asked = _took_time(node), {one["at"] for one in mine if one["what"] == "time"}
        words = f"it took {took}'s" if took else f"it asked {', '.join(sorted(asked))}" if asked else "it asked nobody"
        said = "" if took else excerpt(_tail(node, "chronyd"))
        yield Claim(f"{model.name} takes the time over management", bool(took) and asked == set(_addresses(model.common.ntp)), str(model.name), f"the time of {' or '.join(_addresses(model.common.ntp))}", words, "chronyd -d -x", said, path)  # fmt: skip
    for server in _addresses(model.common.dns):
        answered = names.get(server, "it is not among its own name servers")
        yield Claim(f"{model.name} is answered for names by {server}", answered == "answered", str(model.name), "an answer", answered, "a question to port 53 from VRF mgmt", "" if answered == "answered" else excerpt("\n".join(map(" ".join, names.items()))), path)  # fmt: skip
    for server in _addresses(model.common.syslog):
        there = [one for one in mine if one["what"] == "logs" and one["at"] == server and _SAID in one["words"]]
        yield Claim(f"what {model.name} logs reaches {server}", bool(there), str(model.name), f"“{_SAID}” from {model.management.ip}", "it came" if there else "nothing came", f"logger -p daemon.warning '{_SAID}'", "", path)  # fmt: skip


def _sign_in(asking: Asking, switch: str, key: Path) -> Iterator[Claim]:
    """Signing in from where one may, with a key and with a password, and from elsewhere."""
    model = asking.lab.models[switch]
    users = [str(one.label) for one in model.common.users]
    path = f"switches/{model.name}/management/address"
    if not users:
        return
    done = _ssh(asking, model, users[0], _source(model), key)
    name, offered = done.out.strip(), set(re.findall(r"Authentications that can continue: (\S+)", done.err))
    where = f"ssh -v {users[0]}@{model.management.ip} hostname"
    evidence = "" if name == model.name else excerpt(_tail(asking.lab.nodes[switch], "sshd"))
    yield Claim(f"{users[0]} signs in to {model.name} with a key", name == model.name, str(model.name), "signed in over management", f"signed in to {name}" if name else _last(done), where, evidence, path)  # fmt: skip
    holds = offered == {"publickey"}
    words = f"it lets go on by {' and '.join(sorted(offered))}" if offered else "it says nothing of how one may sign in"
    yield Claim(f"a password opens nothing on {model.name}", holds, str(model.name), "no way but a key", words, where, "" if holds else excerpt(done.err), path)  # fmt: skip


def _source(model: SwitchModel) -> str:
    """An address from which one may sign in, on the out-of-band network; empty where the network's gateway is one."""
    prefixes = [ip_network(str(one)) for one in model.common.sign_in_v4]
    if not prefixes or any(ip_address(model.management.gateway) in one for one in prefixes):
        return ""
    return str(prefixes[0][-2] if prefixes[0].num_addresses > 2 else prefixes[0][0])


def _ssh(asking: Asking, model: SwitchModel, user: str, source: str, key: Path) -> Done:
    """Sign in with a key, and have told which ways the switch offers."""
    lab = asking.lab
    if source:
        lab.ground.run("ip", "-n", lab.oob, "address", "replace", f"{source}/32", "dev", "lo")
    words = (
        "StrictHostKeyChecking=no", "UserKnownHostsFile=/dev/null", "BatchMode=yes", "ConnectTimeout=10", "IdentitiesOnly=yes", f"IdentityFile={key}",
    )  # fmt: skip
    return lab.ground.run(
        "nsenter", f"--net=/run/netns/{lab.oob}", "ssh", "-v", "-F", "none", *(part for one in words for part in ("-o", one)),
        *(["-b", source] if source else []), f"{user}@{model.management.ip}", "hostname", timeout=40,
    )  # fmt: skip


def _tail(node: Node, program: str) -> str:
    """The last that a program of a switch said."""
    return node.ground.run("sh", "-c", 'tail -5 "$1" 2>/dev/null', "sh", str(node.folder / f"{program}.log")).out


def _last(done: Done) -> str:
    return (done.err.strip().splitlines() or ["no answer"])[-1]
