"""What would cut us off from a switch, read from its own text: its management address and gateway, SSH, who may become root, and the filter."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from ipaddress import ip_address

from barrio.core.targets.linux_frr.readback.read import SwitchText, read_devices

INTERFACES = "etc/network/interfaces"
SSHD, NFT, SUDO, ACCOUNTS = (
    "etc/ssh/sshd_config",
    "etc/nftables.conf",
    "etc/sudoers.d/fabric",
    "etc/sysusers.d/fabric.conf",
)
_KEYS = "etc/ssh/authorized_keys/"
_KEY = re.compile(r'(expiry-time="\d+" )?(ssh-\S+|ecdsa-\S+|sk-\S+) [A-Za-z0-9+/=]{40,}( .*)?')


def cut_off(name: str, files: Mapping[str, str]) -> Iterator[str]:
    """By which lines of a switch's files nobody would reach it any more."""
    try:
        devices = read_devices(files[INTERFACES])
        yield from (words for _, words in lockout(SwitchText(name, devices, {}, {}, {}, {}, [], files)))
    except (ValueError, KeyError, IndexError) as error:
        yield f"its files cannot be read: {error}"


def lockout(switch: SwitchText) -> Iterator[tuple[str, str]]:
    """Everything by which nobody would reach the switch any more, each with its file and line."""
    if SSHD not in switch.others:
        return
    yield from (("lockout", words) for check in (_management, _ssh, _people, _filter) for words in check(switch))


def _management(switch: SwitchText) -> Iterator[str]:
    ports = [
        device for device in switch.devices.values() if device.one("vrf") == "mgmt" and device.kind.endswith("port")
    ]
    if len(ports) != 1 or len(ports[0].addresses) != 1:
        yield "etc/network/interfaces gives no port an address in mgmt, by which the switch is managed"
        return
    own, gateway = ports[0].addresses[0], ports[0].one("gateway")
    if not gateway or ip_address(gateway) not in own.network or ip_address(gateway) == own.ip:
        where = _where(switch.others["etc/network/interfaces"], f"gateway {gateway}")
        yield f"etc/network/interfaces{where}: {gateway or 'no gateway'} is no way out of {own.network} for {ports[0].name}"


def _ssh(switch: SwitchText) -> Iterator[str]:
    text = switch.others[SSHD]
    said = dict(line.split(" ", 1) for line in text.splitlines() if " " in line and not line.startswith("#"))
    own = {str(one.ip) for device in switch.devices.values() if device.one("vrf") == "mgmt" for one in device.addresses}
    if said.get("ListenAddress", "").removesuffix(" rdomain mgmt") not in own:
        yield f"{SSHD}{_where(text, 'ListenAddress')}: SSH listens on no address that the switch is managed by"
    for word, wanted in (("Port", "22"), ("PubkeyAuthentication", "yes"), ("AuthorizedKeysFile", f"/{_KEYS}%u")):
        if said.get(word) != wanted:
            where = _where(text, f"{word} {said[word]}" if word in said else word)
            yield f"{SSHD}{where}: {word} is {said.get(word, 'not said')}, and has to be {wanted}"


def _people(switch: SwitchText) -> Iterator[str]:
    """Whoever is named has an account and a key; one of them may become root, by a key that does not end."""
    files, allowed = switch.others, _after(switch.others[SSHD], "AllowUsers ")
    accounts, lasting = files.get(ACCOUNTS, ""), False
    for user in allowed:
        keys = [line for line in files.get(f"{_KEYS}{user}", "").splitlines() if line]
        if not keys or not all(_KEY.fullmatch(line) for line in keys):
            yield f"{_KEYS}{user}: no key, or none that can be read, so that {user} cannot sign in"
        if f"u {user} " not in accounts:
            yield f"{ACCOUNTS}: {user} may sign in, and has no account"
        lasting |= f"m {user} sudo\n" in accounts and any(not line.startswith("expiry-time") for line in keys)
    if allowed and not lasting:
        yield f"{ACCOUNTS}: nobody may become root by a key that does not end"
    if allowed and not re.search(r"^%sudo ALL=\(ALL:ALL\) NOPASSWD: ALL$", files.get(SUDO, ""), re.MULTILINE):
        yield f"{SUDO}: the group sudo may not become root"


def _filter(switch: SwitchText) -> Iterator[str]:
    text = switch.others.get(NFT, "")
    ports = [device.name for device in switch.devices.values() if device.one("vrf") == "mgmt"]
    jump = re.search(r"^\s*iifname \{ ([^}]*) \} jump management$", text, re.MULTILINE)
    if jump is None or not {f'"{name}"' for name in ("mgmt", *ports)} <= set(jump[1].split(", ")):
        yield f"{NFT}{_where(text, 'jump management')}: what comes by the management port is not let to the rules for it"
    rules = text.partition("chain management {")[2].partition("}\n")[0]
    if not re.search(r"^\s*(ip6? saddr \S+ )?tcp dport 22 [^\n]*\baccept$", rules, re.MULTILINE):
        yield f"{NFT}{_where(text, 'chain management')}: SSH is let in from nowhere"


def _after(text: str, word: str) -> list[str]:
    return next((line.removeprefix(word).split() for line in text.splitlines() if line.startswith(word)), [])


def _where(text: str, words: str) -> str:
    """The line on which something is said, to be put behind its file."""
    return next((f", line {number}" for number, line in enumerate(text.splitlines(), 1) if words in line), "")
